import { sizeText } from '../../host';
import { escapeHtml } from '../escape';
import type { MediaShelf, NoFile, ShelvedFile } from '../media';
import {
  carrierText,
  filesOf,
  JOINED,
  LOST_TEXT,
  partsOf,
  proofText,
  shownBody,
  STATE_MARKS,
  storeChanges,
  type Production,
  type ProductionFile,
  type ProductionGap,
  type ProductionLine,
  type ProductionSection,
  type ProductionThread
} from '../model';
import { safeFileName } from '../names';
import { isCutShort } from '../readable';
import { shown, type Text } from '../parts';
import { visible, type ZonedTime } from '../../shown';
import { textFile, type FormatContext, type ProducedFile } from './format';
import { PAGE_STYLE } from './style';

/** One page a conversation or list, and an index; no script, nothing from elsewhere. Files that the pages show lie beside them. */
export async function* produceHtml(
  production: Production,
  context: FormatContext
): AsyncGenerator<ProducedFile> {
  const names = production.sections.map(({ title }, i) =>
    safeFileName(i + 1, shown(title), 'html')
  );
  yield textFile('pages/index.html', indexPage(production, names, context.time));
  const written = new Set<string>();
  for (const [i, section] of production.sections.entries()) {
    const files = new Map<string, ShownFile | NoFile>();
    for (const file of filesOf(partsOf([section]))) {
      context.signal.throwIfAborted();
      const original = await context.media.get(file);
      const found = typeof original === 'string' ? original : await onPage(original, context.media);
      const isCut = typeof original !== 'string' && isCutShort(original.bytes, original.mime);
      files.set(file.id, typeof found === 'string' ? found : { ...found, bytes: NOTHING, isCut });
      if (typeof found === 'string' || written.has(found.name)) continue;
      written.add(found.name);
      yield { path: `pages/media/${found.name}`, bytes: found.bytes };
    }
    const text =
      section.kind === 'thread'
        ? threadPage(production, section, files, context)
        : listPage(production, section, files, context.time);
    yield textFile(`pages/${names[i]!}`, text);
  }
}

/** What browsers do not show or play is shown from its readable copy. */
async function onPage(found: ShelvedFile, media: MediaShelf): Promise<ShelvedFile> {
  const isShown = SHOWN.test(found.mime) || found.mime === 'audio/ogg';
  return isShown ? found : ((await media.readable(found)) ?? found);
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

type ShownFile = ShelvedFile & { isCut: boolean };
type Files = ReadonlyMap<string, ShownFile | NoFile>;

type Listed = Exclude<ProductionSection, { kind: 'thread' }>;

/** A page of calls, contacts, files or gaps. */
function listPage({ head }: Production, section: Listed, files: Files, time: ZonedTime): string {
  const top = `<header><h1>${headingOf(section)}</h1>
<p>Times in ${escapeHtml(head.zone)}. <a href="index.html">Index</a></p></header>`;
  return page(shown(section.title), `${top}\n<main>\n${listOf(section, files, time)}\n</main>`);
}

function listOf(section: Listed, files: Files, time: ZonedTime): string {
  const at = (moment: number | null): string =>
    moment === null ? 'unknown' : escapeHtml(time.full(moment));
  switch (section.kind) {
    case 'calls':
      return tableOf(
        ['Who', 'Number or address', 'Direction', 'When', 'Seconds', 'State'],
        section.calls.map((call) => [
          isolated(call.who),
          isolated(call.address),
          call.direction,
          at(call.at),
          String(call.seconds ?? ''),
          STATE_MARKS[call.state].word
        ])
      );
    case 'contacts':
      return tableOf(
        ['Name', 'Numbers', 'Addresses', 'Organisation', 'Note', 'State'],
        section.contacts.map((contact) => [
          isolated(contact.name),
          contact.phones.map(isolated).join(', '),
          contact.emails.map(isolated).join(', '),
          isolated(contact.organisation),
          isolated(contact.note),
          STATE_MARKS[contact.state].word
        ])
      );
    case 'gaps':
      return tableOf(
        ['With', 'Missing', 'After', 'Before', 'How it shows'],
        section.gaps.map(({ who, count, from, to, reason }) => [
          who === null ? 'not known' : isolated(who),
          String(count),
          at(from),
          at(to),
          escapeHtml(reason)
        ])
      );
    case 'files':
      return section.files
        .map((file) => attachment(file, files.get(file.id)) + carriersOf(file, time))
        .join('\n');
  }
}

function carriersOf({ carriers }: ProductionFile, time: ZonedTime): string {
  return carriers
    .map((carrier) => `<p class="file">${isolated(carrierText(carrier, time))}</p>`)
    .join('');
}

function isolated(text: Text): string {
  return `<bdi>${inline(text)}</bdi>`;
}

/** A table of cells that are markup already. */
function tableOf(heads: readonly string[], rows: readonly string[][]): string {
  const head = heads.map((text) => `<th>${text}</th>`).join('');
  const body = rows.map((row) => `<tr>${row.map((cell) => `<td>${cell}</td>`).join('')}</tr>`);
  return `<table><thead><tr>${head}</tr></thead><tbody>\n${body.join('\n')}\n</tbody></table>`;
}

function headingOf({ label, title }: ProductionSection): string {
  const mark = label === null ? '' : `<small>${escapeHtml(label)}</small> `;
  return `${mark}<bdi>${inline(title)}</bdi>`;
}

function threadPage(
  production: Production,
  section: Extract<ProductionSection, { kind: 'thread' }>,
  files: Files,
  context: FormatContext
): string {
  const { head } = production;
  const { thread } = section;
  const part =
    thread.lines.length === thread.of
      ? `${thread.of} lines`
      : `${thread.lines.length} of ${thread.of} lines`;
  const people = thread.participants
    .map((p) => `<bdi>${inline(p.name)}</bdi> <small>${inline(p.address)}</small>`)
    .join(', ');
  const top = `<header><h1>${headingOf(section)}</h1>
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
  const stores = storeChanges(thread.lines);
  for (const line of thread.lines) {
    const heading = line.at === null ? 'Time unknown' : context.time.longDay(line.at);
    for (const gap of thread.gapsBefore.get(line.id) ?? []) out.push(gapRow(gap, context.time));
    if (heading !== day) {
      out.push(`<h2>${escapeHtml(heading)}</h2>`);
      speaker = '';
    }
    day = heading;
    const store = stores.get(line.id);
    if (store !== undefined)
      out.push(`<p class="store">from <bdi>${escapeHtml(visible(store))}</bdi></p>`);
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

function attachment(file: ProductionFile, found: ShownFile | NoFile | undefined): string {
  if (file.code !== null)
    return `<p class="file"><span class="bar">${escapeHtml(file.code)}</span></p>`;
  const name = `<bdi>${inline(file.name)}</bdi>`;
  if (found === undefined || typeof found === 'string')
    return `<p class="file">Attachment ${name} (${escapeHtml([file.mime, found ?? 'not in the source'].filter((fact) => fact !== null).join(', '))})</p>`;
  const facts = [
    found.mime,
    file.areas.length > 0 ? 'redacted in part' : sizeText(file.bytes ?? 0),
    ...(file.byHand ? [JOINED] : []),
    ...(found.isCut ? ['cut short'] : [])
  ];
  const href = `media/${encodeURIComponent(found.name)}`;
  const bars = [...new Set(file.areas.map(({ code }) => code))].map(
    (code) => ` <span class="bar">${escapeHtml(code)}</span>`
  );
  const caption = `<p class="file"><a href="${href}">${name}</a> (${escapeHtml(facts.join(', '))})${bars.join('')}</p>`;
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
  return `<section><h2>Evidence for messages that were deleted or changed</h2>
<table><thead><tr><th>Line</th><th>State</th><th>Certainty</th><th>Bytes</th></tr></thead>
<tbody>
${rows.join('\n')}
</tbody></table>
<p class="note">Certainty runs from 0 to 100. Free blocks, unallocated space and free pages are the places of a database file where deleted rows stay until something is written over them.</p></section>`;
}

function indexPage(production: Production, names: string[], time: ZonedTime): string {
  const { head } = production;
  const rows = production.sections.map((section, i) => {
    const link = `<a href="${encodeURIComponent(names[i]!)}">${headingOf(section)}</a>`;
    return [link, ...factsOf(section, time)];
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
<section>${tableOf(['What', 'Span', 'How much', 'Not live'], rows)}</section>
${redactionTable(production)}<section><h2>Sources</h2><table><thead><tr><th>Source</th><th>Size</th><th>SHA-256</th></tr></thead><tbody>${sources.join('\n')}</tbody></table>
<p class="legend">${legend()}</p></section>`
  );
}

/** Span, size, and how much is not live. */
function factsOf(section: ProductionSection, time: ZonedTime): string[] {
  if (section.kind !== 'thread') {
    const { calls, contacts, files, gaps } = partsOf([section]);
    const notLive = [...calls, ...contacts, ...files].filter(({ state }) => state !== 'live');
    const all = calls.length + contacts.length + files.length + gaps.length;
    return ['', String(all), section.kind === 'gaps' ? '' : String(notLive.length)];
  }
  const { lines } = section.thread;
  const times = lines.flatMap((line) => (line.at === null ? [] : [line.at]));
  const span =
    times.length === 0 ? '' : `${time.split(times[0]!).date} to ${time.split(times.at(-1)!).date}`;
  const notLive = lines.filter((line) => line.state !== 'live').length;
  return [span, String(lines.length), String(notLive)];
}

function redactionTable({ redactions, redacted }: Production): string {
  if (redactions.length === 0) return '';
  const rows = redactions.map(({ code, what, count }) => {
    const reason = redacted.find((entry) => entry.code === code)?.reason ?? '';
    return [
      `<span class="bar">${escapeHtml(code)}</span>`,
      escapeHtml(reason),
      what,
      String(count)
    ];
  });
  return `<section><h2>Redactions</h2>${tableOf(['Code', 'Reason', 'What', 'How many'], rows)}</section>\n`;
}
