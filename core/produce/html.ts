import { escapeHtml, paragraphs } from './escape';
import {
  LOST_TEXT,
  proofText,
  shownBody,
  sizeText,
  STATE_MARKS,
  type ProducedFile,
  type Production,
  type ProductionLine,
  type ProductionThread
} from './model';
import { safeFileName } from './names';
import { PAGE_STYLE } from './style';
import { ZonedTime } from './time';

/** One self-contained page a conversation, and an index. No script, nothing from elsewhere. */
export function produceHtml(production: Production): ProducedFile[] {
  const time = new ZonedTime(production.zone);
  const pages = production.threads.map((thread, i) => ({
    path: `pages/${safeFileName(i + 1, thread.title, 'html')}`,
    text: threadPage(production, thread, time)
  }));
  const index = { path: 'index.html', text: indexPage(production, pages, time) };
  return [index, ...pages];
}

/** The page's own policy: even if a body got through as markup, nothing of it could run or load. */
const POLICY =
  "default-src 'none'; style-src 'unsafe-inline'; img-src data:; base-uri 'none'; form-action 'none'";

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

function threadPage(production: Production, thread: ProductionThread, time: ZonedTime): string {
  const part =
    thread.lines.length === thread.of
      ? `${thread.of} lines`
      : `${thread.lines.length} of ${thread.of} lines`;
  const people = thread.participants
    .map((p) => `<bdi>${escapeHtml(p.name)}</bdi> <small>${escapeHtml(p.address)}</small>`)
    .join(', ');
  const head = `<header><h1><bdi>${escapeHtml(thread.title)}</bdi></h1>
<p>With ${people}. ${part}. Times in ${escapeHtml(production.zone)}. <a href="../index.html">Index</a></p>
<p class="legend">${legend()}</p></header>`;
  return page(
    thread.title,
    `${head}\n<main>\n${transcript(thread, time)}\n</main>\n${proofTable(thread)}`
  );
}

function legend(): string {
  const words = Object.values(STATE_MARKS).map(({ mark, word }) => `<span>${mark} ${word}</span>`);
  return `${words.join(' ')} <span>${LOST_TEXT} bytes lost here</span>`;
}

function transcript(thread: ProductionThread, time: ZonedTime): string {
  const out: string[] = [];
  let day = '';
  let speaker = '';
  for (const line of thread.lines) {
    const heading = line.at === null ? 'Time unknown' : time.longDay(line.at);
    if (heading !== day) {
      out.push(`<h2>${escapeHtml(heading)}</h2>`);
      speaker = '';
    }
    day = heading;
    const changed = thread.participants.length > 1 && line.sender !== speaker;
    speaker = line.sender;
    out.push(lineRow(line, time, changed));
  }
  return out.join('\n');
}

function lineRow(line: ProductionLine, time: ZonedTime, nameSpeaker: boolean): string {
  const side =
    line.direction === 'outgoing' ? 'own' : line.direction === 'incoming' ? 'other' : 'both';
  const { mark, word } = STATE_MARKS[line.state];
  const at = line.at === null ? null : time.split(line.at);
  const stamp = at
    ? `<time datetime="${new Date(line.at!).toISOString()}">${at.time}</time> <i>${at.offset}</i>`
    : 'time unknown';
  const name = nameSpeaker
    ? `<p class="who"><bdi>${escapeHtml(line.sender)}</bdi></p>`
    : `<p class="said">${escapeHtml(line.sender)}</p>`;
  return `<article class="${side} ${line.state}" id="line-${line.number}">
<div class="text">${name}${content(line)}</div>
<div class="spine"><b>${line.number}</b> ${stamp} <span title="${word}">${mark}</span><span class="said">${word}</span></div>
</article>`;
}

function content(line: ProductionLine): string {
  const subject = line.subject ? `<p dir="auto"><b>${escapeHtml(line.subject)}</b></p>` : '';
  const files = line.attachments.map((file) => {
    const facts = [file.mime, file.bytes === null ? 'not in the source' : sizeText(file.bytes)];
    const shown = facts.filter((fact) => fact !== null).join(', ');
    return `<p class="file">Attachment <bdi>${escapeHtml(file.name)}</bdi> (${escapeHtml(shown)})</p>`;
  });
  return subject + paragraphs(shownBody(line)) + files.join('');
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

function indexPage(production: Production, pages: ProducedFile[], time: ZonedTime): string {
  const rows = production.threads.map((thread, i) => {
    const times = thread.lines.flatMap((line) => (line.at === null ? [] : [line.at]));
    const span =
      times.length === 0
        ? ''
        : `${time.split(times[0]!).date} to ${time.split(times.at(-1)!).date}`;
    const recovered = thread.lines.filter((line) => line.state !== 'live').length;
    const href = pages[i]!.path.split('/').map(encodeURIComponent).join('/');
    return `<tr><td><a href="${href}"><bdi>${escapeHtml(thread.title)}</bdi></a></td><td>${span}</td><td>${thread.lines.length}</td><td>${recovered}</td></tr>`;
  });
  const sources = production.sources.map(
    (s) =>
      `<tr><td>${escapeHtml(s.name)}</td><td>${sizeText(s.bytes)}</td><td><code>${escapeHtml(s.sha256)}</code></td></tr>`
  );
  return page(
    production.caseName,
    `<header><h1>${escapeHtml(production.caseName)}</h1>
<p>Produced ${escapeHtml(time.full(production.made))}. Times in ${escapeHtml(production.zone)}.</p></header>
<section><table><thead><tr><th>Conversation</th><th>Span</th><th>Lines</th><th>Not live</th></tr></thead><tbody>${rows.join('\n')}</tbody></table></section>
<section><h2>Sources</h2><table><thead><tr><th>Source</th><th>Size</th><th>SHA-256</th></tr></thead><tbody>${sources.join('\n')}</tbody></table>
<p class="legend">${legend()}</p></section>`
  );
}
