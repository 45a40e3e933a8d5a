import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';

/**
 * What somebody gets out of the files of a package with other programs than
 * ours: pages by poppler, sheets and mails taken apart, all bytes as they are
 * in the usual encodings, and the names.
 */
export function* readablePackage(
  files: ReadonlyMap<string, Uint8Array>
): Generator<{ path: string; text: string }> {
  for (const [path, bytes] of files) {
    yield { path: 'names', text: path };
    yield { path, text: Buffer.from(bytes).toString('latin1') };
    const utf8 = Buffer.from(bytes).toString('utf8');
    yield { path, text: utf8 };
    if (path.endsWith('.html')) yield { path, text: utf8.replace(/<[^>]*>/g, '') };
    if (path.endsWith('.vcf') || path.endsWith('.ics'))
      yield { path, text: utf8.replace(/\r?\n[ \t]/g, '') };
    if (path.endsWith('.xlsx'))
      for (const [name, part] of Object.entries(unzipSync(bytes)))
        yield {
          path: `${path}/${name}`,
          text: Buffer.from(part)
            .toString('utf8')
            .replace(/<[^>]*>/g, ' ')
        };
    if (/\.(eml|mbox)$/.test(path))
      for (const [block] of utf8.matchAll(/(?:^[A-Za-z0-9+/]{4,}={0,2}\r?\n?)+/gm))
        yield { path, text: Buffer.from(block, 'base64').toString('utf8') };
    if (path.endsWith('.pdf')) yield { path, text: pagesOf(bytes) };
  }
}

function pagesOf(bytes: Uint8Array): string {
  const folder = mkdtempSync(join(tmpdir(), 'ombudsman-pages-'));
  try {
    const file = join(folder, 'a.pdf');
    writeFileSync(file, bytes);
    const said = (program: string, ...args: string[]): string =>
      execFileSync(program, args, { encoding: 'utf8', maxBuffer: 1 << 28 });
    return said('pdftotext', file, '-') + said('pdfinfo', file);
  } finally {
    rmSync(folder, { recursive: true });
  }
}
