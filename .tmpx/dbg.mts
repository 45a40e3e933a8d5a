import { readFileSync } from 'node:fs';
import { Database } from '../core/sqlite/index';
import { fromBytes } from './src.mts';
import { samplesOf } from '../core/stores/worked-out/database';
import { findLinks } from '../core/stores/worked-out/links';
import { workOut } from '../core/stores/worked-out/work-out';
const bytes = new Uint8Array(readFileSync(`/tmp/ind/db/${process.argv[2]}.db`));
const db = fromBytes(bytes) as any;
const samples = [...samplesOf(await db)];
for (const s of samples) {
  if (process.argv[3] && s.name !== process.argv[3]) continue;
  console.log('TABLE', s.name, s.rows.length);
  for (const c of s.columns) console.log('   ', c.name, 'd', c.distinct, 'f', c.filled, 't', c.texts, 'n', c.numbers, 'b', c.blobs, c.clock ? c.clock.clock + ' ' + c.clock.share.toFixed(2) : '', c.wording ? 'w ' + c.wording.score.toFixed(2) + ' n ' + c.wording.named.toFixed(2) + ' forms ' + c.wording.forms.toFixed(2) : '');
}
for (const l of findLinks(samples)) console.log('LINK', l.from, l.column, '->', l.to, l.key);
const found = workOut(samples, {});
console.log(found?.fit, found?.reasons, JSON.stringify(found?.profile.messages, null, 1));
console.log(JSON.stringify(found?.profile.names), found?.question);
if (process.argv[4]) {
  const closed = new Set(samples.map((s) => s.name.toLowerCase()).filter((n) => n !== process.argv[4]!.toLowerCase()));
  const one = workOut(samples, { closed });
  console.log('ONE', one?.fit, one?.reasons, JSON.stringify(one?.profile.messages), one?.question);
}
