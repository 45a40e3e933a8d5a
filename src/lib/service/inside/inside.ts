import type { ByteSource } from '$core/host';
import { assemble, scanMedium } from '$core/formats/rawimage';
import { proofText } from '$core/produce';
import type { ZonedTime } from '$core/shown';
import type { Message, Proof } from '$core/records';
import {
  explainCell,
  logStretches,
  openDatabase,
  pageMap,
  sampledLayouts,
  type CellField,
  type Database,
  type ExplainedCell,
  type Layout,
  type PageMap,
  type PageUses
} from '$core/sqlite';
import { sha256, sha256Hasher } from '../host/hash';
import { FileHistory } from './life';
import type { InsideField, InsidePage, InsideRecord, InsideView } from '../api/protocol';
import type { RecoveredProof } from '../lines/store-lines';

/** Gives a file of the source, or null when its bytes are not kept here. */
export type FileOpener = (path: string) => Promise<ByteSource | null>;

/** A database opened to be looked at page by page. */
export class InsideDatabase {
  private mapped: { map: PageMap; uses: PageUses } | null = null;
  private known: Layout[] | null = null;
  private history: FileHistory | null = null;

  private constructor(
    readonly database: Database,
    private readonly told: string[],
    private readonly main: ByteSource,
    private readonly checksum: string
  ) {}

  /** Null when the file is not kept in this browser. @throws SqliteFormatError when it is not a database. */
  static async open(
    path: string,
    fileOf: FileOpener,
    listed: (path: string) => string | null
  ): Promise<InsideDatabase | null> {
    // A file may itself be called like something that was carved.
    const plain = await fileOf(path);
    const [name, at] = plain ? [path, null] : splitCarved(path);
    const main = plain ?? (await fileOf(name));
    if (!main) return null;
    const checksum = listed(name) ?? (await checksumOf(main));
    if (at !== null) return InsideDatabase.carved(main, at, checksum);
    const [wal, journal] = await Promise.all([fileOf(`${name}-wal`), fileOf(`${name}-journal`)]);
    const files = { main, ...(wal ? { wal } : {}), ...(journal ? { journal } : {}) };
    const { database, told } = openDatabase(files, []);
    return new InsideDatabase(database, told, main, checksum);
  }

  private static carved(main: ByteSource, at: number, checksum: string): InsideDatabase | null {
    const scan = scanMedium(main);
    let step = scan.next();
    while (!step.done) step = scan.next();
    for (const { database, offset, told } of assemble(main, step.value, []))
      if (offset === at) return new InsideDatabase(database, told, main, checksum);
    return null;
  }

  /** @param proofs of what was recovered from files of the source. */
  async view(proofs: AsyncIterable<RecoveredProof>): Promise<InsideView> {
    const { map } = await this.map();
    const { database, main } = this;
    const { pages, header } = database;
    const found = await countRecovered(proofs, main.name);
    return {
      name: main.name,
      sha256: this.checksum,
      bytes: main.size,
      pageSize: pages.pageSize,
      encoding: header.encoding.toUpperCase(),
      told: this.told,
      kinds: map.kinds,
      recovered: [...found.byPage],
      space: map.space,
      log: logStretches(database).map((stretch) => ({
        ...stretch,
        recovered: found.inLog.filter((at) => at >= stretch.from && at < stretch.to).length
      }))
    };
  }

  /** The map of a large file takes seconds; other questions are answered in between. */
  private async map(): Promise<{ map: PageMap; uses: PageUses }> {
    if (this.mapped) return this.mapped;
    const work = pageMap(this.database);
    let until = performance.now() + SLICE;
    let step = work.next();
    for (; !step.done; step = work.next()) {
      if (performance.now() < until) continue;
      await new Promise((resolve) => setTimeout(resolve));
      until = performance.now() + SLICE;
    }
    return (this.mapped = step.value);
  }

  async page(number: number): Promise<InsidePage | null> {
    const { pages } = this.database;
    const bytes = pages.page(number);
    if (!bytes) return null;
    const { uses } = await this.map();
    const { owner } = uses.get(number);
    const place = pages.place(number);
    return {
      number,
      offset: place.offset,
      file: place.source.name,
      owner,
      bytes: bytes.slice(),
      sha256: await sha256(bytes)
    };
  }

  async record(
    message: Message,
    proof: Proof,
    time: ZonedTime,
    sentAt: (id: string) => number | null
  ): Promise<InsideRecord | null> {
    const { uses } = await this.map();
    this.known ??= sampledLayouts(this.database);
    const place = { file: proof.path, offset: proof.offset, length: proof.length };
    const cell = explainCell(this.database, this.known, uses, place);
    if (!cell) return null;
    return {
      page: {
        number: cell.page,
        offset: cell.pageOffset,
        file: proof.path,
        owner: uses.get(cell.page).owner,
        bytes: cell.bytes.slice(),
        sha256: await sha256(cell.bytes)
      },
      start: proof.offset - cell.pageOffset,
      length: proof.length,
      method: proof.method,
      spans: cell.spans,
      fields: [...headFields(cell), ...cell.fields.map((field) => shown(field, message, time))],
      life: this.life(cell, message, time, sentAt),
      citation: `${proof.path}, SHA-256 ${this.checksum}, page ${cell.page}, offset ${proof.offset}, length ${proof.length}`,
      place: proofText(proof)
    };
  }

  private life(
    { table, rowid }: ExplainedCell,
    { store, id }: Message,
    time: ZonedTime,
    sentAt: (id: string) => number | null
  ): InsideRecord['life'] {
    if (table === null) return [];
    // The number of a cell whose first bytes were overwritten stands in the line's own id, where it is known.
    const own = id.startsWith(`${store}/${table}/`)
      ? Number(id.slice(id.lastIndexOf('/') + 1))
      : NaN;
    const number = typeof rowid === 'number' ? rowid : Number.isInteger(own) ? own : null;
    if (number === null) return [];
    this.history ??= new FileHistory(this.database);
    return this.history.of(table, number, (row) => sentAt(`${store}/${table}/${row}`), time);
  }
}

const SLICE = 30;
const CHUNK = 1 << 20;

async function checksumOf(file: ByteSource): Promise<string> {
  const hasher = await sha256Hasher();
  for (let at = 0; at < file.size; at += CHUNK) hasher.update(file.read(at, CHUNK));
  return hasher.digest();
}

/** A database carved out of a medium is called by the medium and the offset of its first page. */
function splitCarved(path: string): [string, number | null] {
  const found = /^(.*) at (\d+)$/.exec(path);
  return found ? [found[1]!, Number(found[2])] : [path, null];
}

async function countRecovered(
  proofs: AsyncIterable<RecoveredProof>,
  name: string
): Promise<{ byPage: Map<number, number>; inLog: number[] }> {
  const byPage = new Map<number, number>();
  const inLog: number[] = [];
  for await (const { path, page, offset } of proofs) {
    if (path === `${name}-wal`) inLog.push(offset);
    else if (path === name && page !== null) byPage.set(page, (byPage.get(page) ?? 0) + 1);
  }
  return { byPage, inLog };
}

function headFields(cell: ExplainedCell): InsideField[] {
  const { rebuilt, payload, rowid, headerBytes, fields } = cell;
  const row = rowid === null ? 'rowid lost' : `row ${rowid}`;
  const lead = `payload ${payload} bytes, ${row}`;
  const name = 'cell header';
  return [
    rebuilt > 0
      ? { name, text: `${rebuilt} bytes overwritten, rebuilt: ${lead}`, note: null, kind: 'lost' }
      : { name, text: lead, note: null, kind: 'plain' },
    {
      name: 'record header',
      text: `${headerBytes} bytes, ${fields.length} values`,
      note: null,
      kind: 'plain'
    }
  ];
}

const LONGEST_SHOWN = 120;

function shown(field: CellField, message: Message, time: ZonedTime): InsideField {
  const { name, value, bytes, lost } = field;
  if (lost) return { name, text: `${bytes} bytes, not all on this page`, note: null, kind: 'lost' };
  if (value === null) return { name, text: 'NULL', note: null, kind: 'none' };
  if (value instanceof Uint8Array)
    return { name, text: `${bytes} bytes of data`, note: null, kind: 'plain' };
  const text = String(value);
  const cut = text.length > LONGEST_SHOWN ? `${text.slice(0, LONGEST_SHOWN)} …` : text;
  return { name, text: cut, note: momentOf(value, message, time), kind: 'plain' };
}

const EPOCHS = [0, 978_307_200_000, -11_644_473_600_000];
/** Units in milliseconds: seconds down to nanoseconds. */
const UNITS = [1000, 1, 1e-3, 1e-6];

/** A number that is one of the message's moments on whatever clock is shown as that moment. */
function momentOf(
  value: number | bigint | string,
  { sentAt, deliveredAt, readAt }: Message,
  time: ZonedTime
): string | null {
  if (typeof value === 'string' || Math.abs(Number(value)) < 1e6) return null;
  const moments = [sentAt, deliveredAt, readAt].filter((at) => at !== null);
  for (const epoch of EPOCHS) {
    for (const unit of UNITS) {
      const at = moments.find((moment) => Math.abs(Number(value) * unit + epoch - moment) < 1);
      if (at !== undefined) return time.full(at);
    }
  }
  return null;
}
