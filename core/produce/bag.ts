import { textFile, type ProducedFile } from './formats/format';

/** A file of the payload that was written, with what proves it. */
export interface WrittenFile {
  /** Below the bag's folder, beginning with `data/`. */
  path: string;
  bytes: number;
  sha256: string;
}

type Hash = (bytes: Uint8Array) => Promise<string>;

/** The files that make a folder of payload a bag (BagIt 1.0, RFC 8493). */
export async function bagFiles(
  payload: readonly WrittenFile[],
  facts: { title: string; made: number; version: string; preparedBy: string | null },
  hash: Hash
): Promise<ProducedFile[]> {
  const bytes = payload.reduce((sum, file) => sum + file.bytes, 0);
  const info: [string, string][] = [
    ['Bag-Software-Agent', `Ombudsman ${facts.version}`],
    ['Bagging-Date', new Date(facts.made).toISOString().slice(0, 10)],
    ['External-Description', facts.title],
    ...(facts.preparedBy === null ? [] : [['Contact-Name', facts.preparedBy] as [string, string]]),
    ['Payload-Oxum', `${bytes}.${payload.length}`]
  ];
  const tags = [
    textFile('bagit.txt', 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n'),
    textFile('bag-info.txt', info.map(([name, value]) => `${name}: ${oneLine(value)}\n`).join('')),
    textFile('manifest-sha256.txt', manifest(payload))
  ];
  const sums: WrittenFile[] = [];
  for (const { path, bytes: content } of tags)
    sums.push({ path, bytes: content.length, sha256: await hash(content) });
  return [...tags, textFile('tagmanifest-sha256.txt', manifest(sums))];
}

/** One line a file, by path; line ends and percent signs in a path are encoded (section 2.1.3). */
function manifest(files: readonly WrittenFile[]): string {
  return [...files]
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map(({ path, sha256 }) => `${sha256}  ${encodedPath(path)}\n`)
    .join('');
}

function encodedPath(path: string): string {
  return path.replace(/[%\r\n]/g, (char) => encodeURIComponent(char));
}

export function decodedPath(path: string): string {
  return path.replace(/%(25|0D|0A)/gi, (code) => decodeURIComponent(code));
}

function oneLine(text: string): string {
  return text.replace(/\s+/g, ' ').trim();
}
