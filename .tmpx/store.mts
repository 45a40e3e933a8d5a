import { writeFileSync } from 'node:fs';
import { buildStore } from '../core/tests/unknown/build';
import { plans } from '../core/tests/unknown/dimensions';
for (const a of process.argv.slice(2)) { const n = Number(a); const [p] = plans(1, n); const s = buildStore(p!); console.log(p!.label, s.path); writeFileSync(`/tmp/ind/db/u${n}.db`, s.bytes); }
