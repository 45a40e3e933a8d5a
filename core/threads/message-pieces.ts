import { pieceOf, type JsonFrame, type Piece } from '../records';
import {
  judgeRow,
  liveMethod,
  LIVE_ROW,
  ofTable,
  placeKey,
  ROW_NUMBER,
  type FreedFacts,
  type StoreProof,
  type Surroundings
} from '../stores';

/** What stands around the values of a live row's record, for one table and one file. */
interface LivePieces {
  begin: Piece;
  state: Piece;
  proof: Piece;
  end: Piece;
}

const NOTHING_MORE = '"attachments":[],"replyTo":null,"reactions":[],"location":null}';

/** The reasons of freed rows that are alike but for their number, as bytes. */
export interface ReasonPieces {
  /** Up to the number, or all where there is none. */
  before: Piece;
  after: Piece;
  hasNumber: boolean;
}

/** The unchanging parts of a message record, in the order of `messageJson`, as bytes. */
export class MessagePieces {
  readonly deliveredAt = pieceOf(',"deliveredAt":');
  readonly readAt = pieceOf(',"readAt":');
  readonly body = pieceOf(',"body":');
  readonly offset = pieceOf(',"offset":');
  readonly length = pieceOf(',"length":');
  readonly recovered = pieceOf(
    ',"subject":null,"state":"recovered","purgeAt":null,"replaces":null,"certainty":'
  );
  readonly reasonsOpen = pieceOf(',"reasons":[');
  readonly proofs = pieceOf('],"proofs":[');
  /** Neither delivered nor read, up to the text. */
  readonly timeless = pieceOf(',"deliveredAt":null,"readAt":null,"body":');
  readonly comma = pieceOf(',');
  /** Begins a record up to its id. */
  readonly open: Piece;
  readonly rest: Piece;
  readonly quote = pieceOf('"');
  private readonly lives = new Map<string, LivePieces>();
  private readonly places = new Map<string, Piece>();
  private readonly ids = new Map<string, Piece>();
  /** By table, and then by what {@link likeness} gives. */
  private readonly reasonsOf = new Map<string, ReasonPieces[]>();
  private last: { table: string; file: string; pieces: LivePieces } | null = null;
  private readonly methods = new Map<string, Piece>();

  constructor(
    private readonly frame: JsonFrame,
    private readonly store: string,
    private readonly source: string
  ) {
    this.open = pieceOf(`${frame.before}"id":`);
    this.rest = pieceOf(`],${NOTHING_MORE}${frame.after}`);
  }

  live(table: string, file: string): LivePieces {
    const { last } = this;
    if (last?.table === table && last.file === file) return last.pieces;
    const pieces = this.liveOf(table, file);
    this.last = { table, file, pieces };
    return pieces;
  }

  private liveOf(table: string, file: string): LivePieces {
    const key = `${table}\u0000${file}`;
    let known = this.lives.get(key);
    if (!known) this.lives.set(key, (known = this.makeLive(table, file)));
    return known;
  }

  private makeLive(table: string, file: string): LivePieces {
    const id = inner(`${this.store}/${table}/`);
    const state =
      ',"subject":null,"state":"live","purgeAt":null,"replaces":null,"certainty":100,' +
      `"reasons":["${LIVE_ROW} `;
    const end = `,"method":"${liveMethod(file)}"}],${NOTHING_MORE}${this.frame.after}`;
    return {
      begin: pieceOf(`${this.frame.before}"id":"${id}`),
      state: pieceOf(state),
      proof: pieceOf(` ${inner(ofTable(table))}"],"proofs":[${this.place(file)}`),
      end: pieceOf(end)
    };
  }

  /** The opening quote of an id up to the offset of a freed row's place. */
  idOf(table: string, file: string): Piece {
    const key = `${table}\u0000${file}`;
    let known = this.ids.get(key);
    if (!known) {
      const id = placeKey(table, { file, offset: 0 }).slice(0, -1);
      this.ids.set(key, (known = pieceOf(`"${inner(`${this.store}/${id}`)}`)));
    }
    return known;
  }

  /** The reasons of a complete freed row; its table has so many columns. */
  reasons(facts: FreedFacts, columns: number, around: Surroundings): ReasonPieces {
    let known = this.reasonsOf.get(facts.table);
    if (!known) this.reasonsOf.set(facts.table, (known = []));
    return (known[likeness(facts, around)] ??= reasonPieces(facts, columns, around));
  }

  private place(file: string): string {
    return `{"source":${JSON.stringify(this.source)},"path":${JSON.stringify(file)},"page":`;
  }

  proofOf(file: string): Piece {
    let known = this.places.get(file);
    if (!known) this.places.set(file, (known = pieceOf(this.place(file))));
    return known;
  }

  methodOf(method: StoreProof['method']): Piece {
    let known = this.methods.get(method);
    if (!known) this.methods.set(method, (known = pieceOf(`,"method":"${method}"}`)));
    return known;
  }
}

const MOST_PLACES = 16;

/** A number that complete freed rows of one table share when they differ in nothing but their row number. */
function likeness({ rebuilt, proofs, rowid, inferred }: FreedFacts, around: Surroundings): number {
  const { isLinked, isInTime } = around;
  const number = rowid === null ? 0 : inferred ? 1 : 2;
  const time = isInTime === null ? 0 : isInTime ? 1 : 2;
  const place = rebuilt * MOST_PLACES + proofs.length;
  return ((place * 3 + number) * 3 + time) * 2 + (isLinked ? 1 : 0);
}

/** The words come from {@link judgeRow} alone: here they are but cut at the number. */
function reasonPieces(facts: FreedFacts, columns: number, around: Surroundings): ReasonPieces {
  const { reasons } = judgeRow(facts, columns, around);
  const texts = reasons.map((reason) => JSON.stringify(reason));
  const at = reasons.findIndex((reason) => reason.startsWith(ROW_NUMBER));
  if (at < 0) return { before: pieceOf(texts.join(',')), after: pieceOf(''), hasNumber: false };
  const from = `"${ROW_NUMBER} `.length;
  const before = [...texts.slice(0, at), texts[at]!.slice(0, from)].join(',');
  const rest = texts[at]!.slice(from + String(facts.rowid).length);
  const after = [rest, ...texts.slice(at + 1)].join(',');
  return { before: pieceOf(before), after: pieceOf(after), hasNumber: true };
}

/** A text as it stands between the quotes of a JSON string. */
function inner(text: string): string {
  return JSON.stringify(text).slice(1, -1);
}
