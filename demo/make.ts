import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { DEMO_CASE } from './case';
import { makeEvidence } from './evidence';

const folder = join(dirname(fileURLToPath(import.meta.url)), '..', 'static', 'demo');
mkdirSync(folder, { recursive: true });
for (const { name, bytes } of await makeEvidence()) {
  writeFileSync(join(folder, name), bytes);
  console.log(`${name}: ${bytes.length} bytes`);
}
writeFileSync(join(folder, 'case.json'), JSON.stringify(DEMO_CASE, null, 2));
