import { pieceOf, type JsonFrame, type Piece } from '../records';
import { liveMethod, LIVE_ROW, ofTable, type StoreProof } from '../stores';

/** What stands around the values of a live row's record, for one table and one file. */
interface LivePieces {
  begin: Piece;
  state: Piece;
  proof: Piece;
  end: Piece;
}

const NOTHING_MORE = '"attachments":[],"replyTo":null,"reactions":[],"location":null}';

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
  readonly reasons = pieceOf(',"reasons":[');
  readonly proofs = pieceOf('],"proofs":[');
  /** Neither delivered nor read, up to the text. */
  readonly timeless = pieceOf(',"deliveredAt":null,"readAt":null,"body":');
  readonly comma = pieceOf(',');
  /** Begins a record up to its id. */
  readonly open: Piece;
  readonly rest: Piece;
  private readonly lives = new Map<string, LivePieces>();
  private readonly places = new Map<string, Piece>();
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

/** A text as it stands between the quotes of a JSON string. */
function inner(text: string): string {
  return JSON.stringify(text).slice(1, -1);
}
