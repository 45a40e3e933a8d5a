import type { FreedMessages, PlainSink, Wait } from './sink';
import type { StoreMessage } from './types';

/** The messages of a store as they come one by one, in the order in which they are asked for here. */
export interface MessageStream {
  /** Live messages in all. */
  readonly liveCount: number;
  /** Names, by key or unique value, of messages that others answer; complete once `learn` has run. */
  readonly asked: ReadonlySet<string>;
  /** Goes over all of them once for what one says of another. */
  learn(): Iterable<{ done: number; total: number }>;
  /** Some messages, to see what the store holds. */
  sample(): StoreMessage[];
  /** Those that the store still holds, but what the sink takes as rows. Null now and then. */
  live(sink: PlainSink | null): Iterable<StoreMessage | Wait | null>;
  /** The freed ones. */
  freed(): Generator<{ done: number; total: number }, FreedMessages>;
  /** What turned out to be messages of their own once all have come. */
  unclaimed(): StoreMessage[];
}
