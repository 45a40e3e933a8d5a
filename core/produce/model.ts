import { isCut, LOST_MARK, type Message, type Proof, type RecordState } from '../records';

/** One line of a record, ready to be set: names resolved, times in milliseconds. */
export interface ProductionLine {
  number: number;
  id: string;
  at: number | null;
  sender: string;
  address: string;
  direction: Message['direction'];
  body: string;
  subject: string | null;
  state: RecordState;
  certainty: number;
  proofs: Proof[];
  attachments: { name: string; mime: string | null; bytes: number | null }[];
}

/** One conversation, or the chosen part of it. */
export interface ProductionThread {
  title: string;
  participants: { name: string; address: string }[];
  lines: ProductionLine[];
  /** Lines of the whole conversation, to say when only a part is produced. */
  of: number;
}

export interface ProductionSource {
  id: string;
  name: string;
  sha256: string;
  bytes: number;
}

export interface Production {
  caseName: string;
  /** Moment of production, milliseconds since 1970. */
  made: number;
  /** IANA zone in which times are written. */
  zone: string;
  sources: ProductionSource[];
  threads: ProductionThread[];
}

/** One file to be handed over. */
export interface ProducedFile {
  path: string;
  text: string;
}

export const STATE_MARKS: Record<RecordState, { mark: string; word: string }> = {
  live: { mark: '●', word: 'live' },
  held: { mark: '◔', word: 'held' },
  recovered: { mark: '◆', word: 'recovered' },
  fragment: { mark: '◇', word: 'fragment' },
  earlier: { mark: '↶', word: 'earlier' }
};

/** Where bytes are lost the stored text has U+FFFC; readers see this instead. */
export const LOST_TEXT = '[…]';

export function shownBody(line: ProductionLine): string {
  return isCut(line) ? line.body.replaceAll(LOST_MARK, LOST_TEXT) : line.body;
}

export function sizeText(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  if (bytes < 1e6) return `${(bytes / 1e3).toFixed(1)} kB`;
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

export function proofText(proof: Proof): string {
  const page = proof.page === null ? '' : `, page ${proof.page}`;
  const offset = `0x${proof.offset.toString(16).toUpperCase()}`;
  return `${proof.path}${page}, offset ${offset}, ${proof.length} bytes, ${METHODS[proof.method]}`;
}

const METHODS: Record<Proof['method'], string> = {
  table: 'table row',
  log: 'write-ahead log',
  journal: 'rollback journal',
  'free-page': 'free page',
  'free-block': 'free block',
  unallocated: 'unallocated space',
  carved: 'carved',
  card: 'card record',
  text: 'text file'
};
