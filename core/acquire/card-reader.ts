import { sha256 } from '@noble/hashes/sha2.js';
import { toHex } from '../host';
import {
  CopyError,
  type CopyDepth,
  type CopyFile,
  type CopyListing,
  type CopyPart,
  type CopyWire
} from './types';

/** A command that was sent to a card, and its answer. */
export interface Exchange {
  /** In hex. */
  command: string;
  /** In hex; the last two bytes are the status. */
  answer: string;
  told: string;
}

/** Sends a command to the card in the reader and gives its answer. @throws CopyError when the card is gone */
export type Transmit = (command: Uint8Array) => Promise<Uint8Array>;

/** How the card's PIN stands (TS 51.011, section 9.2.1). */
export interface PinState {
  isNeeded: boolean;
  triesLeft: number;
}

/** Folders and elementary files that are asked for (TS 51.011, section 10). */
const ASKED: readonly [folder: string | null, files: readonly string[]][] = [
  [null, ['2fe2']],
  ['7f20', ['6f07', '6f46']],
  ['7f10', ['6f3c', '6f3a', '6f3b', '6f40', '6f42', '6f43', '6f44', '6f49', '6f4a', '6f4b', '6f47']]
];

const MASTER = '3f00';
/** Answers to a selection (TS 51.011, section 9.2.1). */
const [SIZE_AT, STRUCTURE_AT, RECORD_AT] = [2, 13, 14];
const [FILE_FLAGS_AT, PIN_AT] = [13, 18];
/** Most bytes that one command reads of a file without records. */
const MOST_READ = 128;
const MESSAGES = '6f3c';

interface Selected extends CopyFile {
  steps: string[];
  /** Bytes of a record; 0 for a file without records. */
  record: number;
}

/** Reads a card file by file and record by record, and keeps what was said. */
export class CardReader implements CopyWire {
  readonly exchange: Exchange[] = [];
  private files: Selected[] | null = null;

  constructor(
    private readonly transmit: Transmit,
    private readonly depth: CopyDepth,
    private readonly onexchange: (said: Exchange) => void = () => undefined
  ) {}

  /** How the PIN stands, without trying one. */
  async pin(): Promise<PinState> {
    const answer = await this.select(MASTER);
    if (!answer) throw new CopyError('read-error', 'The card does not answer to its main folder.');
    const isOff = (answer[FILE_FLAGS_AT]! & 0x80) !== 0;
    return { isNeeded: !isOff, triesLeft: answer[PIN_AT]! & 15 };
  }

  /** Whether the card took the PIN. It is never tried more than once for a call. */
  async verify(pin: string): Promise<boolean> {
    const digits = Uint8Array.from({ length: 8 }, (_, i) =>
      i < pin.length ? pin.charCodeAt(i) : 0xff
    );
    const command = Uint8Array.from([0xa0, 0x20, 0, 1, 8, ...digits]);
    const { status } = await this.send(command, 'PIN given');
    return status === 0x9000;
  }

  async list(): Promise<CopyListing> {
    const files = (this.files ??= await this.look());
    const iccid = files.find(({ path }) => path.endsWith('2FE2'));
    const bytes = iccid ? await this.bytesOf(iccid) : new Uint8Array(0);
    const serial = toHex(bytes);
    return {
      device: 'card',
      facts: { serial },
      depth: this.depth,
      kinds: null,
      files: files.map(({ path, size }) => ({ path, size })),
      state: `card ${serial} ${this.depth} ${files.map(({ size }) => size).join(' ')}`
    };
  }

  async read(path: string, offset: number, length: number): Promise<CopyPart> {
    const file = this.files?.find((one) => one.path === path);
    if (!file) throw new CopyError('not-ready', `There is no ${path} on the card.`);
    const bytes = (await this.bytesOf(file)).slice(offset, offset + length);
    return { bytes, sha256: toHex(sha256(bytes)) };
  }

  /** Selects every file that may be there; those that are not are passed over. */
  private async look(): Promise<Selected[]> {
    const found: Selected[] = [];
    for (const [folder, ids] of ASKED) {
      await this.select(MASTER);
      if (folder !== null && !(await this.select(folder))) continue;
      for (const id of ids) {
        const facts = await this.select(id);
        if (!facts) continue;
        const steps = [MASTER, ...(folder === null ? [] : [folder]), id];
        found.push({
          path: steps.join('/').toUpperCase(),
          size: (facts[SIZE_AT]! << 8) | facts[SIZE_AT + 1]!,
          steps,
          record: facts[STRUCTURE_AT] === 0 ? 0 : facts[RECORD_AT]!
        });
      }
    }
    return found;
  }

  private async bytesOf(file: Selected): Promise<Uint8Array> {
    for (const step of file.steps) await this.select(step);
    const out = new Uint8Array(file.size);
    const step = file.record || MOST_READ;
    for (let at = 0, n = 1; at < file.size; at += step, n++) {
      const length = Math.min(step, file.size - at);
      const command =
        file.record > 0 ? [0xa0, 0xb2, n, 4, length] : [0xa0, 0xb0, at >> 8, at & 255, length];
      const told = file.record > 0 ? `record ${n} of ${file.path}` : file.path;
      const { data, status } = await this.send(Uint8Array.from(command), told);
      if (status !== 0x9000) throw this.refused(file.path, at, status);
      out.set(this.shown(file, data), at);
    }
    return out;
  }

  /** A phone shows no free records: the shallow depth leaves out what is in them. */
  private shown({ path }: Selected, data: Uint8Array): Uint8Array {
    const isFree = path.toLowerCase().endsWith(MESSAGES) && (data[0]! & 1) === 0;
    if (this.depth !== 'logical' || !isFree) return data;
    return new Uint8Array(data.length).fill(0xff).fill(0, 0, 1);
  }

  private refused(path: string, offset: number, status: number): CopyError {
    const isLocked = status === 0x9804 || status === 0x9840;
    return isLocked
      ? new CopyError('not-ready', 'The card wants its PIN before it is read.', { path, offset })
      : new CopyError(
          'read-error',
          `The card could not give ${path} from byte ${offset} on (status ${status.toString(16)}). Resume the reading.`,
          { path, offset }
        );
  }

  /** What a file or folder says of itself; null when it is not there. */
  private async select(id: string): Promise<Uint8Array | null> {
    const place = Uint8Array.from([parseInt(id.slice(0, 2), 16), parseInt(id.slice(2), 16)]);
    const { status } = await this.send(
      Uint8Array.from([0xa0, 0xa4, 0, 0, 2, ...place]),
      `${id.toUpperCase()} selected`
    );
    if (status >> 8 !== 0x9f) return null;
    const length = status & 255;
    const { data } = await this.send(
      Uint8Array.from([0xa0, 0xc0, 0, 0, length]),
      `${id.toUpperCase()} described`
    );
    return data;
  }

  private async send(
    command: Uint8Array,
    told: string
  ): Promise<{ data: Uint8Array; status: number }> {
    const answer = await this.transmit(command);
    const isSecret = command[1] === 0x20;
    const said: Exchange = {
      command: isSecret ? `${toHex(command.subarray(0, 5))} …` : toHex(command),
      answer: toHex(answer),
      told
    };
    this.exchange.push(said);
    this.onexchange(said);
    const end = answer.length - 2;
    return { data: answer.subarray(0, end), status: (answer[end]! << 8) | answer[end + 1]! };
  }
}
