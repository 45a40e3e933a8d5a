/** How a simulated card stands. */
export interface CardState {
  verified: boolean;
  triesLeft: number;
}

/** Bytes of the elementary files by their path, and the length of a record where a file has some. */
export interface CardContents {
  files: Record<string, Uint8Array>;
  records: Record<string, number>;
  pin: string;
}

const [MASTER, FOLDER, FILE] = [1, 2, 4];
const OK = [0x90, 0x00];
const NOT_FOUND = [0x94, 0x04];
const OUT_OF_RANGE = [0x94, 0x02];
const NOT_ALLOWED = [0x98, 0x04];
const BLOCKED = [0x98, 0x40];
const WRONG_LENGTH = [0x67, 0x00];
const UNKNOWN = [0x6d, 0x00];

/** Files that are read without the PIN. */
const OPEN = new Set(['3F00/2FE2']);

/** A card that answers commands of class A0 as TS 51.011, section 9 says. */
export class SimulatedCard {
  private folder = '3F00';
  private file: string | null = null;
  private answer: number[] = [];

  constructor(
    private readonly contents: CardContents,
    private readonly state: () => CardState,
    private readonly change: (state: CardState) => void
  ) {}

  transmit(command: Uint8Array): Uint8Array {
    return Uint8Array.from(this.answerTo(command));
  }

  private answerTo(command: Uint8Array): number[] {
    const [kind, instruction, p1 = 0, p2 = 0, p3 = 0] = command;
    if (kind !== 0xa0) return [0x6e, 0x00];
    switch (instruction) {
      case 0xa4:
        return this.select(command.subarray(5, 7));
      case 0xc0:
        return [...this.answer.slice(0, p3), ...OK];
      case 0x20:
        return this.verify(command.subarray(5, 13));
      case 0xb0:
        return this.readBinary((p1 << 8) | p2, p3);
      case 0xb2:
        return this.readRecord(p1, p3);
      default:
        return UNKNOWN;
    }
  }

  private select(id: Uint8Array): number[] {
    const name = Buffer.from(id).toString('hex').toUpperCase();
    const paths = Object.keys(this.contents.files);
    if (name === '3F00') this.folder = name;
    else if (paths.some((path) => path.startsWith(`3F00/${name}/`))) this.folder = `3F00/${name}`;
    else if (!(`${this.folder}/${name}` in this.contents.files)) return NOT_FOUND;
    const isFolder = name === '3F00' || this.folder.endsWith(name);
    this.file = isFolder ? null : `${this.folder}/${name}`;
    this.answer = isFolder ? this.folderFacts(name) : this.fileFacts(name, this.file!);
    return [0x9f, this.answer.length];
  }

  private folderFacts(name: string): number[] {
    const { triesLeft } = this.state();
    const kind = name === '3F00' ? MASTER : FOLDER;
    const [high, low] = halves(parseInt(name, 16));
    // Nothing of the memory is told; the PIN is in use, and has so many tries left.
    const head = [0, 0, 0, 0, high, low, kind, 0, 0, 0, 0, 0, 9];
    return [...head, 0x13, 2, 4, 4, 0, 0x80 | triesLeft, 0x8a, 0, 0];
  }

  private fileFacts(name: string, path: string): number[] {
    const size = this.contents.files[path]!.length;
    const record = this.contents.records[path] ?? 0;
    const access = OPEN.has(path) ? 0x0f : 0x1f;
    const structure = record > 0 ? 1 : 0;
    return [
      ...[0, 0, ...halves(size), ...halves(parseInt(name, 16)), FILE, 0, access, 0xff, 0x44, 1],
      ...[2, structure, record]
    ];
  }

  private verify(given: Uint8Array): number[] {
    const { triesLeft } = this.state();
    if (triesLeft === 0) return BLOCKED;
    const pin = Buffer.from(given.filter((byte) => byte !== 0xff)).toString('latin1');
    if (pin === this.contents.pin) {
      this.change({ verified: true, triesLeft: 3 });
      return OK;
    }
    this.change({ verified: false, triesLeft: triesLeft - 1 });
    return triesLeft === 1 ? BLOCKED : NOT_ALLOWED;
  }

  private mayRead(): boolean {
    return this.state().verified || (this.file !== null && OPEN.has(this.file));
  }

  private readBinary(offset: number, length: number): number[] {
    const bytes = this.file === null ? undefined : this.contents.files[this.file];
    if (!bytes) return NOT_FOUND;
    if (!this.mayRead()) return NOT_ALLOWED;
    if (offset + length > bytes.length) return OUT_OF_RANGE;
    return [...bytes.subarray(offset, offset + length), ...OK];
  }

  private readRecord(number: number, length: number): number[] {
    const bytes = this.file === null ? undefined : this.contents.files[this.file];
    const record = this.file === null ? 0 : (this.contents.records[this.file] ?? 0);
    if (!bytes || record === 0) return NOT_FOUND;
    if (!this.mayRead()) return NOT_ALLOWED;
    if (length !== record) return WRONG_LENGTH;
    const at = (number - 1) * record;
    if (number < 1 || at >= bytes.length) return OUT_OF_RANGE;
    return [...bytes.subarray(at, at + record), ...OK];
  }
}

function halves(value: number): [number, number] {
  return [(value >> 8) & 255, value & 255];
}
