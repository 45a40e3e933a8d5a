import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { DEMO_CASE, type DemoSource } from './case';
import { takeDemoCopies } from './copies';
import { makeEvidence } from './evidence';
import { MORE_SOURCES } from './more';

const folder = join(dirname(fileURLToPath(import.meta.url)), '..', 'static', 'demo');
rmSync(folder, { recursive: true, force: true });

function write(path: string, bytes: Uint8Array | string): void {
  const target = join(folder, path);
  mkdirSync(dirname(target), { recursive: true });
  writeFileSync(target, bytes);
}

const [phone] = await makeEvidence();
write(phone!.name, phone!.bytes);
const sources: DemoSource[] = [{ name: 'Phone of the treasurer', files: [phone!.name] }];
for (const { name, folder: below, files, copied } of await takeDemoCopies()) {
  for (const [path, bytes] of files) write(`${below}/${path}`, bytes);
  sources.push({ name, folder: below, files: [...files.keys()], copied });
}
for (const { name, folder: below, files } of MORE_SOURCES) {
  for (const [path, bytes] of Object.entries(files)) write(`${below}/${path}`, bytes);
  sources.push({ name, folder: below, files: Object.keys(files) });
}
write('case.json', JSON.stringify({ ...DEMO_CASE, sources }, null, 2));
for (const { name, files } of sources) console.log(`${name}: ${files.length} files`);
