import { utf8, type JsonFrame } from '../records';
import { liveMethod, LIVE_ROW, ofTable, type StoreProof } from '../stores';

/** What stands around the values of a live row's record, for one table and one file. */
interface LivePieces {
  begin: Uint8Array;
  state: Uint8Array;
  proof: Uint8Array;
  end: Uint8Array;
}

const NOTHING_MORE = '"attachments":[],"replyTo":null,"reactions":[],"location":null}';

/** The unchanging parts of a message record, in the order of `messageJson`, as bytes. */
export class MessagePieces {
  readonly deliveredAt = utf8(',"deliveredAt":');
  readonly readAt = utf8(',"readAt":');
  readonly body = utf8(',"body":');
  readonly offset = utf8(',"offset":');
  readonly length = utf8(',"length":');
  readonly recovered = utf8(
    ',"subject":null,"state":"recovered","purgeAt":null,"replaces":null,"certainty":'
  );
  readonly reasons = utf8(',"reasons":[');
  readonly proofs = utf8('],"proofs":[');
  /** Neither delivered nor read, up to the text. */
  readonly timeless = utf8(',"deliveredAt":null,"readAt":null,"body":');
  readonly comma = utf8(',');
  /** Begins a record up to its id. */
  readonly open: Uint8Array;
  readonly rest: Uint8Array;
  private readonly lives = new Map<string, LivePieces>();
  private readonly places = new Map<string, Uint8Array>();
  private readonly methods = new Map<string, Uint8Array>();

  constructor(
    private readonly frame: JsonFrame,
    private readonly store: string,
    private readonly source: string
  ) {
    this.open = utf8(`${frame.before}"id":`);
    this.rest = utf8(`],${NOTHING_MORE}${frame.after}`);
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
      begin: utf8(`${this.frame.before}"id":"${id}`),
      state: utf8(state),
      proof: utf8(` ${inner(ofTable(table))}"],"proofs":[${this.place(file)}`),
      end: utf8(end)
    };
  }

  private place(file: string): string {
    return `{"source":${JSON.stringify(this.source)},"path":${JSON.stringify(file)},"page":`;
  }

  proofOf(file: string): Uint8Array {
    let known = this.places.get(file);
    if (!known) this.places.set(file, (known = utf8(this.place(file))));
    return known;
  }

  methodOf(method: StoreProof['method']): Uint8Array {
    let known = this.methods.get(method);
    if (!known) this.methods.set(method, (known = utf8(`,"method":"${method}"}`)));
    return known;
  }
}

/** A text as it stands between the quotes of a JSON string. */
function inner(text: string): string {
  return JSON.stringify(text).slice(1, -1);
}
