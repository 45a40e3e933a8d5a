// The emoji font carries its pictures twice, as COLR and as SVG tables. Browsers that we serve draw the
// first; leaving the second out makes a fifth of the file with the same output.
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { root } from './install.mjs';

const SOURCE =
  'node_modules/@expo-google-fonts/noto-color-emoji/400Regular/NotoColorEmoji_400Regular.ttf';
const TARGET = 'static/fonts/noto-color-emoji.ttf';

export function prepareEmojiFont() {
  const target = join(root, TARGET);
  if (existsSync(target)) return;
  mkdirSync(dirname(target), { recursive: true });
  writeFileSync(target, withoutTables(readFileSync(join(root, SOURCE)), new Set(['SVG '])));
}

/** Copies a TrueType file without some tables (OpenType specification, "Organization of an OpenType Font"). */
function withoutTables(font, unwanted) {
  const tables = [];
  for (let i = 0; i < font.readUInt16BE(4); i++) {
    const entry = 12 + 16 * i;
    const tag = font.toString('latin1', entry, entry + 4);
    if (unwanted.has(tag)) continue;
    const offset = font.readUInt32BE(entry + 8);
    const length = font.readUInt32BE(entry + 12);
    const data = font.subarray(offset, offset + length);
    tables.push({ tag, checksum: font.readUInt32BE(entry + 4), data });
  }
  return assemble(font.readUInt32BE(0), tables);
}

function assemble(version, tables) {
  const count = tables.length;
  const power = 2 ** Math.floor(Math.log2(count));
  const head = Buffer.alloc(12 + 16 * count);
  head.writeUInt32BE(version, 0);
  head.writeUInt16BE(count, 4);
  head.writeUInt16BE(power * 16, 6);
  head.writeUInt16BE(Math.log2(power), 8);
  head.writeUInt16BE((count - power) * 16, 10);
  const parts = [head];
  let at = head.length;
  tables.forEach(({ tag, checksum, data }, i) => {
    const entry = 12 + 16 * i;
    head.write(tag, entry, 'latin1');
    head.writeUInt32BE(checksum, entry + 4);
    head.writeUInt32BE(at, entry + 8);
    head.writeUInt32BE(data.length, entry + 12);
    const padding = Buffer.alloc((4 - (data.length % 4)) % 4);
    parts.push(data, padding);
    at += data.length + padding.length;
  });
  return Buffer.concat(parts);
}
