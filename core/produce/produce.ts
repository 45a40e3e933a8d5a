import { produceCsv } from './csv';
import { produceHtml } from './html';
import type { ProducedFile, Production } from './model';
import { produceText } from './text';

/** Formats of a production; a new one is one file and one line here. */
export const FORMATS = {
  html: { title: 'Web pages', produce: produceHtml },
  csv: { title: 'Sheet (CSV)', produce: produceCsv },
  text: { title: 'Plain text', produce: produceText }
} satisfies Record<string, { title: string; produce: (production: Production) => ProducedFile[] }>;

export type Format = keyof typeof FORMATS;

/** All files of a production, with a list of their checksums as the last one. */
export async function produce(
  production: Production,
  formats: Format[],
  sha256: (bytes: Uint8Array) => Promise<string>
): Promise<ProducedFile[]> {
  const files = formats.flatMap((format) => FORMATS[format].produce(production));
  const encoder = new TextEncoder();
  const sums: string[] = [];
  for (const file of files) sums.push(`${await sha256(encoder.encode(file.text))}  ${file.path}`);
  return [...files, { path: 'SHA256SUMS', text: `${sums.join('\n')}\n` }];
}
