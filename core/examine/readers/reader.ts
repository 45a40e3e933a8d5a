import type { Tree, TreeFile } from '../../formats';
import type { GlancedPart } from '../../records';
import type { ReadingProfile } from '../../profiles';
import type { Examination } from '../examination';
import type { Candidate } from '../recognise';
import type { PassEvent } from '../types';

/**
 * What reads one kind of store out of whatever a source holds: databases, raw
 * data, cards, texts. One file or folder beside the others, and one line in
 * `index.ts`; the earlier ones take files first.
 */
export interface StoreReader {
  id: string;
  /** Finds what it will read, before it is told what the source is. */
  find?(exam: Examination): AsyncGenerator<PassEvent>;
  /** Reads it, and gives what it found; what fails in it hinders no other. */
  read(exam: Examination): AsyncGenerator<PassEvent>;
  /** About how much it would find, for the quick look: nothing is searched, and long things not read whole. */
  peek?(look: Look): Promise<Peeked>;
}

/** What the quick look knows of a source. */
export interface Look {
  tree: Tree;
  databases: readonly Candidate[];
  /** IANA zone of times that are written without one. */
  zone: string;
  profiles: readonly ReadingProfile[];
  rest: () => Promise<void>;
}

export interface Peeked {
  parts: GlancedPart[];
  /** What only an examination tells, in a sentence; null where all was looked at. */
  left: string | null;
}

/** What texts keep. */
export const LOG_LIMIT =
  'A text log keeps no deleted lines: what was removed from it cannot be recovered from it.';

/** In which zone times without one were read. */
export function zoneSentence(zone: string): string {
  return `Its times are written without a zone; they were read as times in ${zone}.`;
}

/** Messages of a text as the quick look tells of them. */
export function textPart(
  path: string,
  title: string,
  moments: readonly (number | null)[],
  isMore: boolean
): GlancedPart {
  const times = moments.flatMap((at) => at ?? []).sort((a, b) => a - b);
  return {
    ...{ path, title, beside: [], what: 'messages', count: moments.length, isMore },
    from: times[0] ?? null,
    to: isMore ? null : (times[times.length - 1] ?? null)
  };
}

/** The texts of a source that can be read. */
export function textsIn({ files }: Tree): TreeFile[] {
  return files.filter(({ mark, file }) => mark === 'text' && !file.locked);
}

export function isLong({ file }: TreeFile): boolean {
  return (file.size ?? Infinity) > MOST_TEXT;
}

/** Texts of a source that are looked into; an examination looks into all. */
export const MOST_LOOKED = 12;
/** Bytes of a text that are read at a quick look. */
export const MOST_TEXT = 2 << 20;
