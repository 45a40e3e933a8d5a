import { NodeCompiler } from '@myriaddreamin/typst-ts-node-compiler';
import { readFileSync, writeFileSync, existsSync } from 'node:fs';
import { TEMPLATE } from '../core/produce/pdf/template';
import { madeCase } from '../core/tests/production-case';
import { inputOfCase, gather, settingsSchema } from '../core/produce';
import { fontsFor } from '../core/produce/pdf/fonts';
import { recordData } from '../core/produce/pdf/record';
import { ZonedTime } from '../core/shown';
const n = 4000;
const c = madeCase({ messages: n, pictureEvery: 0, emojiEvery: 33 });
const settings = settingsSchema.parse({ numbering: { prefix: 'X' } });
const { production } = gather(inputOfCase('c', 'Europe/Oslo', c.sources, c.findings, []), settings, 0);
const fonts = await fontsFor(JSON.stringify(production), (f) => Promise.resolve(new Uint8Array(readFileSync(`node_modules/${f}`))));
const { data } = recordData(production, { number: 1, of: 1, before: 0, threads: production.threads, isLast: true }, settings, new ZonedTime('Europe/Oslo'), fonts, { pictures: new Map(), facts: new Map() });
const variants: [string, (t: string) => string][] = [
  ['as it is', (t) => t],



  ['none of them', (t) => t.replace(/#context \[#metadata\(query[^\n]*\n/, '').replace(/context \{ let heads = query.*?\n/, '[x],\n').replace('counter(page).final().first()', '1')],



  ['stacked', (t) => t.replace('s.layout == "spine"', 's.layout == "x"')]
];
for (const [name, change] of variants) {
  const k = NodeCompiler.create({ workspace: '/record', fontArgs: [{ fontBlobs: fonts.files.map((f) => Buffer.from(f)) }] });
  k.mapShadow('/record/record.json', Buffer.from(JSON.stringify(data)));
  k.mapShadow('/record/lines.csv', Buffer.from('a'));
  const at = Date.now();
  const r = k.compile({ mainFileContent: change(TEMPLATE) });
  console.log(name, Date.now() - at, r.result?.numOfPages);
  if (!r.result) r.printDiagnostics();
  k.evictCache(0);
}
