import { wholeCharacters } from './redact/match';
import type { Span } from './redact/types';

export type { Span } from './redact/types';

/** Text of which parts may be redacted: what is shown, and bars with their code. */
export type TextPart = { text: string } | { code: string };
export type Text = readonly TextPart[];

const BAR = '\u2588'.repeat(4);

/** A bar as plain text: always as long as any other, so that it tells nothing of what it hides. */
function barOf(code: string): string {
  return `${BAR} ${code} ${BAR}`;
}

export function plain(text: string): Text {
  return text === '' ? [] : [{ text }];
}

/** Text for formats that know no bars of their own. */
export function shown(text: Text): string {
  return text.map((part) => ('text' in part ? part.text : barOf(part.code))).join('');
}

export function isEmpty(text: Text): boolean {
  return text.every((part) => 'text' in part && part.text === '');
}

/** Changes what is shown and leaves bars as they are. */
export function mapText(text: Text, change: (part: string) => string): Text {
  return text.map((part) => ('text' in part ? { text: change(part.text) } : part));
}

/** A text with bars over the spans; where two overlap the first one's code stands over both. */
export function withBars(text: string, spans: readonly Span[]): Text {
  const parts: TextPart[] = [];
  let at = 0;
  for (const { from, to, code } of merged(spans, text)) {
    if (from > at) parts.push({ text: text.slice(at, from) });
    parts.push({ code });
    at = to;
  }
  if (at < text.length) parts.push({ text: text.slice(at) });
  return parts;
}

function merged(spans: readonly Span[], text: string): Span[] {
  const inside = spans
    .filter(({ from, to }) => from < to && from < text.length)
    .map(({ from, to, code }) => ({ ...wholeCharacters(text, from, to), code }))
    .filter(({ from, to }) => from < to)
    .sort((a, b) => a.from - b.from);
  const out: Span[] = [];
  for (const span of inside) {
    const last = out[out.length - 1];
    if (last && span.from < last.to) last.to = Math.max(last.to, span.to);
    else out.push({ ...span });
  }
  return out;
}
