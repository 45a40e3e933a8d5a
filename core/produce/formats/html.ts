import { escapeHtml } from '../escape';
import type { NoFile, ShelvedFile } from '../media';
import {
  LOST_TEXT,
  proofText,
  shownBody,
  sizeText,
  STATE_MARKS,
  type Production,
  type ProductionFile,
  type ProductionGap,
  type ProductionLine,
  type ProductionThread
} from '../model';
import { safeFileName } from '../names';
import { shown, type Text } from '../parts';
import type { ZonedTime } from '../../shown';
import { textFile, type FormatContext, type ProducedFile } from './format';
import { PAGE_STYLE } from './style';

/** One page a conversation, and an index; no script, nothing from elsewhere. Files that the pages show lie beside them. */
export async function* produceHtml(
  production: Production,
  context: FormatContext
): AsyncGenerator<ProducedFile> {
  const names = production.threads.map(({ title }, i) => safeFileName(i + 1, shown(title), 'html'));
  yield textFile('pages/index.html', indexPage(production, names, context.time));
  const written = new Set<string>();
  for (const [i, thread] of production.threads.entries()) {
    const files = new Map<string, ShelvedFile | NoFile>();
    for (const file of thread.lines.flatMap(({ attachments }) => attachments)) {
      context.signal.throwIfAborted();
      const found = await context.media.get(file);
      files.set(file.id, typeof found === 'string' ? found : { ...found, bytes: NOTHING });
      if (typeof found === 'string' || written.has(found.name)) continue;
      written.add(found.name);
      yield { path: `pages/media/${found.name}`, bytes: found.bytes };
    }
    yield textFile(`pages/${names[i]!}`, threadPage(production, thread, files, context));
  }
}

/** Bytes are written as they come; a page needs only names. */
const NOTHING = new Uint8Array(0);

/** The page's own policy: even if a body got through as markup, nothing of it could run or load. */
const POLICY =
  "default-src 'none'; style-src 'unsafe-inline'; img-src 'self' file: data:; media-src 'self' file:; base-uri 'none'; form-action 'none'";

function page(title: string, body: string): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${POLICY}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escapeHtml(title)}</title>
<style>${PAGE_STYLE}</style>
</head>
<body>
${body}
</body>
</html>
`;
}

/** Text with bars where it is redacted. */
function inline(text: Text): string {
  return text
    .map((part) =>
      'text' in part ? escapeHtml(part.text) : `<span class="bar">${escapeHtml(part.code)}</span>`
    )
    .join('');
}

type Files = ReadonlyMap<string, ShelvedFile | NoFile>;

function threadPage(
  production: Production,
  thread: ProductionThread,
  files: Files,
  context: FormatContext
): string {
  const { head } = production;
  const part =
    thread.lines.length === thread.of
      ? `${thread.of} lines`
      : `${thread.lines.length} of ${thread.of} lines`;
  const people = thread.participants
    .map((p) => `<bdi>${inline(p.name)}</bdi> <small>${inline(p.address)}</small>`)
    .join(', ');
  const top = `<header><h1><bdi>${inline(thread.title)}</bdi></h1>
<p>With ${people}. ${part}. Times in ${escapeHtml(head.zone)}. <a href="index.html">Index</a></p>
<p class="legend">${legend()}</p></header>`;
  const proofs = context.settings.proofs === 'none' ? '' : proofTable(thread);
  return page(
    shown(thread.title),
    `${top}\n<main>\n${transcript(thread, files, context)}\n</main>\n${proofs}`
  );
}

function legend(): string {
  const words = Object.values(STATE_MARKS).map(({ mark, word }) => `<span>${mark} ${word}</span>`);
  return `${words.join(' ')} <span>${LOST_TEXT} bytes lost here</span>`;
}

function transcript(thread: ProductionThread, files: Files, context: FormatContext): string {
  const out: string[] = [];
  let day = '';
  let speaker = '';
  for (const line of thread.lines) {
    const heading = line.at === null ? 'Time unknown' : context.time.longDay(line.at);
    for (const gap of thread.gapsBefore.get(line.id) ?? []) out.push(gapRow(gap, context.time));
    if (heading !== day) {
      out.push(`<h2>${escapeHtml(heading)}</h2>`);
      speaker = '';
    }
    day = heading;
    const who = shown(line.sender);
    const changed = thread.isGroup && line.direction !== 'outgoing' && who !== speaker;
    speaker = who;
    out.push(lineRow(line, files, context, changed));
  }
  for (const gap of thread.gapsAtEnd) out.push(gapRow(gap, context.time));
  return out.join('\n');
}

function gapRow({ count, from, to }: ProductionGap, time: ZonedTime): string {
  const what = count === 1 ? '1 message missing' : `${count} messages missing`;
  const between =
    from === null || to === null ? '' : ` between ${time.full(from)} and ${time.full(to)}`;
  return `<p class="gap">${escapeHtml(`${what}${between}`)}</p>`;
}

function lineRow(
  line: ProductionLine,
  files: Files,
  { time, serials }: FormatContext,
  nameSpeaker: boolean
): string {
  const side =
    line.direction === 'outgoing' ? 'own' : line.direction === 'incoming' ? 'other' : 'both';
  const { mark, word } = STATE_MARKS[line.state];
  const at = line.at === null ? null : time.split(line.at);
  const stamp = at
    ? `<time datetime="${new Date(line.at!).toISOString()}">${at.time}</time> <i>${at.offset}</i>`
    : 'time unknown';
  const name = nameSpeaker
    ? `<p class="who"><bdi>${inline(line.sender)}</bdi></p>`
    : `<p class="said">${inline(line.sender)}</p>`;
  const serial = serials.get(line.id);
  const stamped =
    serial === undefined ? '' : `<br><span class="serial">${escapeHtml(serial)}</span>`;
  return `<article class="${side} ${line.state}${line.isContext ? ' context' : ''}" id="line-${line.number}">
<div class="text">${name}${content(line, files, time)}</div>
<div class="spine"><b>${line.number}</b> ${stamp} <span title="${word}">${mark}</span><span class="said">${word}</span>${stamped}</div>
</article>`;
}

function content(line: ProductionLine, files: Files, time: ZonedTime): string {
  const out: string[] = [];
  if (line.replyTo) {
    const { line: number, quote } = line.replyTo;
    const to = number === null ? 'an earlier line' : `<a href="#line-${number}">${number}</a>`;
    out.push(`<p class="quote">answers ${to}: <bdi>${inline(quote)}</bdi></p>`);
  }
  if (line.earlierOf !== null)
    out.push(
      `<p class="quote">earlier wording of <a href="#line-${line.earlierOf}">${line.earlierOf}</a></p>`
    );
  if (line.subject.length > 0) out.push(`<p dir="auto"><b>${inline(line.subject)}</b></p>`);
  const body = shownBody(line);
  if (body.length > 0) out.push(`<p class="body" dir="auto">${inline(body)}</p>`);
  for (const file of line.attachments) out.push(attachment(file, files.get(file.id)));
  if (line.place)
    out.push(
      `<p class="file">Place ${line.place.lat}, ${line.place.lon} <bdi>${inline(line.place.label)}</bdi></p>`
    );
  for (const { who, text, at } of line.reactions)
    out.push(
      `<p class="file">Reaction <bdi>${inline(text)}</bdi> by <bdi>${inline(who)}</bdi>${at === null ? '' : ` ${escapeHtml(time.full(at))}`}</p>`
    );
  return out.join('');
}

const SHOWN = /^image\/(jpeg|png|gif|webp|avif|bmp)$/;

function attachment(file: ProductionFile, found: ShelvedFile | NoFile | undefined): string {
  if (file.code !== null)
    return `<p class="file"><span class="bar">${escapeHtml(file.code)}</span></p>`;
  const name = `<bdi>${inline(file.name)}</bdi>`;
  if (found === undefined || typeof found === 'string')
    return `<p class="file">Attachment ${name} (${escapeHtml([file.mime, found ?? 'not in the source'].filter((fact) => fact !== null).join(', '))})</p>`;
  const facts = [
    found.mime,
    file.areas.length > 0 ? 'redacted in part' : sizeText(file.bytes ?? 0)
  ];
  const href = `media/${encodeURIComponent(found.name)}`;
  const caption = `<p class="file"><a href="${href}">${name}</a> (${escapeHtml(facts.join(', '))})</p>`;
  if (SHOWN.test(found.mime))
    return `<figure><img src="${href}" alt="${escapeHtml(shown(file.name))}" loading="lazy">${caption}</figure>`;
  if (found.mime.startsWith('video/'))
    return `<figure><video src="${href}" controls preload="metadata"></video>${caption}</figure>`;
  if (found.mime.startsWith('audio/'))
    return `<figure><audio src="${href}" controls preload="metadata"></audio>${caption}</figure>`;
  return caption;
}

function proofTable(thread: ProductionThread): string {
  const lines = thread.lines.filter((line) => line.state !== 'live');
  if (lines.length === 0) return '';
  const rows = lines.map((line) => {
    const proofs = line.proofs.map((proof) => escapeHtml(proofText(proof))).join('<br>');
    const { word } = STATE_MARKS[line.state];
    return `<tr><td><a href="#line-${line.number}">${line.number}</a></td><td>${word}</td><td>${line.certainty}</td><td>${proofs}</td></tr>`;
  });
  return `<section><h2>Proofs of lines that are not live</h2>
<table><thead><tr><th>Line</th><th>State</th><th>Certainty</th><th>Bytes</th></tr></thead>
<tbody>
${rows.join('\n')}
</tbody></table>
<p class="note">Certainty runs from 0 to 100. Free blocks, unallocated space and free pages are the places of a database file where deleted rows stay until something is written over them.</p></section>`;
}

function indexPage(production: Production, names: string[], time: ZonedTime): string {
  const { head } = production;
  const rows = production.threads.map((thread, i) => {
    const times = thread.lines.flatMap((line) => (line.at === null ? [] : [line.at]));
    const span =
      times.length === 0
        ? ''
        : `${time.split(times[0]!).date} to ${time.split(times.at(-1)!).date}`;
    const recovered = thread.lines.filter((line) => line.state !== 'live').length;
    return `<tr><td><a href="${encodeURIComponent(names[i]!)}"><bdi>${inline(thread.title)}</bdi></a></td><td>${span}</td><td>${thread.lines.length}</td><td>${recovered}</td></tr>`;
  });
  const sources = production.sources.map(
    (s) =>
      `<tr><td>${escapeHtml(s.name)}</td><td>${sizeText(s.bytes)}</td><td><code>${escapeHtml(s.sha256)}</code></td></tr>`
  );
  const said = [
    ['Case', head.caseName],
    ['Reference', head.reference],
    ['Prepared by', head.preparedBy],
    ['Prepared for', head.preparedFor]
  ].flatMap(([label, value]) => (value ? [`${label} ${value}.`] : []));
  return page(
    head.title,
    `<header><h1>${escapeHtml(head.title)}</h1>
<p>${escapeHtml(said.join(' '))} Produced ${escapeHtml(time.full(head.made))}. Times in ${escapeHtml(head.zone)}.</p></header>
<section><table><thead><tr><th>Conversation</th><th>Span</th><th>Lines</th><th>Not live</th></tr></thead><tbody>${rows.join('\n')}</tbody></table></section>
${redactionTable(production)}<section><h2>Sources</h2><table><thead><tr><th>Source</th><th>Size</th><th>SHA-256</th></tr></thead><tbody>${sources.join('\n')}</tbody></table>
<p class="legend">${legend()}</p></section>`
  );
}

function redactionTable({ redactions }: Production): string {
  if (redactions.length === 0) return '';
  const rows = redactions.map(
    ({ code, what, count }) =>
      `<tr><td><span class="bar">${escapeHtml(code)}</span></td><td>${what}</td><td>${count}</td></tr>`
  );
  return `<section><h2>Redactions</h2><table><thead><tr><th>Code</th><th>What</th><th>How many</th></tr></thead><tbody>${rows.join('\n')}</tbody></table></section>\n`;
}
