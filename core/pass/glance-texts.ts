import { readLog } from '../logs';
import type { Tree, TreeFile } from '../packages';
import type { GlancedPart } from '../records';
import { openNow } from './attachments';
import { grouped, readTables, tablesOfFile } from './log-tables';

/** Texts of a source that are looked into; an examination looks into all. */
const MOST_LOOKED = 12;
/** Bytes of a text that are read. */
const MOST_TEXT = 2 << 20;

/** What was seen of the texts of a source. */
export interface GlancedTexts {
  parts: GlancedPart[];
  /** Texts were left that only an examination reads, or of which only the beginning was seen. */
  isMore: boolean;
}

/** Logs among the texts of a source: lines, and tables of them. Of many a few are read, of long ones the beginning. */
export async function glancedTexts(
  { files }: Tree,
  zone: string,
  rest: () => Promise<void>
): Promise<GlancedTexts> {
  const texts = files.filter(({ mark, file }) => mark === 'text' && !file.locked);
  const parts: GlancedPart[] = [];
  let isMore = texts.length > MOST_LOOKED;
  for (const text of texts.slice(0, MOST_LOOKED)) {
    const isLong = (text.file.size ?? Infinity) > MOST_TEXT;
    isMore ||= isLong;
    const part = linesOf(text, zone, isLong) ?? (isLong ? null : tableOf(text, zone));
    if (part) parts.push(part);
    await rest();
  }
  return { parts, isMore };
}

function linesOf({ file }: TreeFile, zone: string, isLong: boolean): GlancedPart | null {
  const source = openNow(file);
  if (!source) return null;
  const bytes = source.read(0, Math.min(source.size, MOST_TEXT));
  // The last line that was cut off would be read as one that ends there.
  const end = isLong ? bytes.lastIndexOf(0x0a) + 1 || bytes.length : bytes.length;
  const log = readLog(bytes.subarray(0, end), file.path, zone);
  if (!log || log.isShort) return null;
  return partOf(
    file.path,
    log.entries.map(({ at }) => at),
    isLong
  );
}

function tableOf(text: TreeFile, zone: string): GlancedPart | null {
  for (const group of grouped(tablesOfFile(text).map((table) => ({ table, file: text })))) {
    const read = readTables(group, zone);
    const times = read?.reading.messages.map(({ sentAt }) => sentAt) ?? [];
    if (times.length > 0) return partOf(text.file.path, times, false);
  }
  return null;
}

function partOf(path: string, moments: readonly (number | null)[], isMore: boolean): GlancedPart {
  const times = moments.flatMap((at) => at ?? []).sort((a, b) => a - b);
  return {
    path,
    title: 'text log',
    beside: [],
    what: 'messages',
    count: moments.length,
    isMore,
    from: times[0] ?? null,
    to: isMore ? null : (times[times.length - 1] ?? null)
  };
}
