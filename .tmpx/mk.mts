import { mkdirSync, writeFileSync } from 'node:fs';
import { madeCase } from '../core/tests/production-case';
import { toCaseFile } from '../core/records';
const n = Number(process.argv[2]); const out = process.argv[3]!;
const c = madeCase({ messages: n, pictureEvery: Number(process.argv[4] ?? 25), emojiEvery: Number(process.argv[5] ?? 9) });
writeFileSync(`${out}.json`, JSON.stringify(toCaseFile(c.sources, c.findings, [], new Date('2026-11-27T12:00:00Z'), 'Europe/Oslo')));
mkdirSync(`${out}.att`, { recursive: true });
for (const [sha, b] of c.files) writeFileSync(`${out}.att/${sha}`, b);
