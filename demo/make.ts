import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { DEMO_CASE } from './case';
import { makeEvidence } from './evidence';
import { MORE_SOURCES } from './more';

const folder = join(dirname(fileURLToPath(import.meta.url)), '..', 'static', 'demo');
mkdirSync(folder, { recursive: true });
for (const { name, bytes } of await makeEvidence()) {
  writeFileSync(join(folder, name), bytes);
  console.log(`${name}: ${bytes.length} bytes`);
}
for (const { folder: name, files } of MORE_SOURCES) {
  for (const [path, bytes] of Object.entries(files)) {
    const target = join(folder, name, path);
    mkdirSync(dirname(target), { recursive: true });
    writeFileSync(target, bytes);
  }
  console.log(`${name}: ${Object.keys(files).length} files`);
}
writeFileSync(join(folder, 'case.json'), JSON.stringify(DEMO_CASE, null, 2));
