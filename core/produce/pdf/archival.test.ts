import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test } from 'node:test';
import { nativePrinter } from '../../../cli/print';
import { madeCase } from '../../tests/production-case';
import { produced } from '../../tests/produced';
import { archivalCopy } from './archival';
import { withoutTable } from './font-tables';
import { srgbProfile } from './srgb';

async function record(archival: boolean): Promise<Uint8Array> {
  const made = madeCase({ messages: 40, pictureEvery: 10 });
  const settings = { formats: ['pdf'], pdf: { archival } };
  const { files } = await produced(made, settings, { print: nativePrinter() });
  return files.get('data/record.pdf')!;
}

/** A document's objects as text, by the tool that others check it with. */
function taken(pdf: Uint8Array): {
  catalog: string;
  metadata: string;
  check: string;
  text: string;
} {
  const folder = mkdtempSync(join(tmpdir(), 'archival-'));
  const path = join(folder, 'record.pdf');
  writeFileSync(path, pdf);
  const qpdf = (...args: string[]): string =>
    execFileSync('qpdf', args, { encoding: 'utf8', maxBuffer: 1 << 26 });
  try {
    const root = /\/Root (\d+) 0 R/.exec(qpdf('--show-object=trailer', path))![1]!;
    const catalog = qpdf(`--show-object=${root}`, path);
    const metadata = /\/Metadata (\d+) 0 R/.exec(catalog)![1]!;
    return {
      catalog,
      metadata: qpdf(`--show-object=${metadata}`, '--filtered-stream-data', path),
      check: qpdf('--check', path),
      text: execFileSync('pdftotext', ['-raw', path, '-'], { encoding: 'utf8' })
    };
  } finally {
    rmSync(folder, { recursive: true });
  }
}

test('a document becomes one for archives, as the engine itself writes it where it can', async () => {
  const plain = await record(false);
  const [copy, native] = [taken(await archivalCopy(plain)), taken(await record(true))];
  assert.match(copy.check, /No syntax or stream encoding errors found/);
  for (const key of ['AF', 'OutputIntents', 'Metadata', 'StructTreeRoot', 'MarkInfo', 'Lang'])
    assert.equal(copy.catalog.includes(`/${key} `), native.catalog.includes(`/${key} `), key);
  const marks = /<pdfaid:part>3<\/pdfaid:part><pdfaid:conformance>B<\/pdfaid:conformance>/;
  assert.match(copy.metadata, marks);
  assert.match(native.metadata, marks);
  const described = (text: string): string[] =>
    [...text.matchAll(/pdfaProperty:name>(\w+)</g)].map((m) => m[1]!);
  assert.deepEqual(described(copy.metadata), described(native.metadata));
  assert.equal(copy.text, native.text);
  assert.deepEqual(await archivalCopy(plain), await archivalCopy(plain));
});

test('the profile of colours is one of three channels', () => {
  const profile = srgbProfile();
  const word = (at: number): string => String.fromCharCode(...profile.subarray(at, at + 4));
  assert.equal(new DataView(profile.buffer).getUint32(0), profile.length);
  assert.deepEqual([word(12), word(16), word(36)], ['mntr', 'RGB ', 'acsp']);
});

/** A font directory of tables with their contents. */
function fontOf(tables: Record<string, number[]>): Uint8Array {
  const names = Object.keys(tables);
  const head = 12 + 16 * names.length;
  const bytes = new Uint8Array(head + names.length * 8);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, 0x00010000);
  view.setUint16(4, names.length);
  for (const [i, name] of names.entries()) {
    for (let c = 0; c < 4; c++) bytes[12 + 16 * i + c] = name.charCodeAt(c);
    view.setUint32(12 + 16 * i + 8, head + i * 8);
    view.setUint32(12 + 16 * i + 12, tables[name]!.length);
    bytes.set(tables[name]!, head + i * 8);
  }
  return bytes;
}

test('a table is left out of a font, and the others are found where they are', () => {
  const font = fontOf({ CBDT: [1, 2, 3], 'SVG ': [9, 9, 9, 9, 9], cmap: [4, 5, 6, 7] });
  const less = withoutTable(font, 'SVG ');
  const view = new DataView(less.buffer);
  assert.equal(view.getUint16(4), 2);
  for (const [i, expected] of [
    [1, 2, 3],
    [4, 5, 6, 7]
  ].entries()) {
    const [offset, length] = [view.getUint32(12 + 16 * i + 8), view.getUint32(12 + 16 * i + 12)];
    assert.deepEqual([...less.subarray(offset, offset + length)], expected);
    assert.equal(offset % 4, 0);
  }
  assert.equal(withoutTable(less, 'SVG '), less);
  assert.equal(withoutTable(new Uint8Array(5), 'SVG ').length, 5);
});
