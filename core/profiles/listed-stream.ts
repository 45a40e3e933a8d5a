import { hashText } from '../host';
import type { MessageStream } from './message-stream';
import type { FreedMessages } from './sink';
import type { StoreMessage, StoreReading } from './types';

/** Messages that were read from cards and logs: few enough to be listed. */
export function listedStream(reading: StoreReading): MessageStream {
  const kept = reading.messages.filter(isKept);
  const freed = reading.messages.filter((message) => !isKept(message));
  const asked = reading.messages.flatMap(({ replyTo }) => (replyTo === null ? [] : [replyTo]));
  return {
    liveCount: kept.length,
    asked: new Set(asked),
    learn: () => [],
    sample: () => reading.messages,
    live: () => kept,
    *freed() {
      return listedFreed(freed);
    },
    unclaimed: () => []
  };
}

/** Whether the store itself still holds the message. */
export function isKept({ state, earlierOf }: StoreMessage): boolean {
  return state === 'live' || state === 'held' || earlierOf !== null;
}

/** Freed messages that are held in a list, as those of a database are told apart. */
export function listedFreed(messages: readonly StoreMessage[]): FreedMessages {
  return {
    count: messages.length,
    moments: Float64Array.from(messages, ({ sentAt }) => sentAt ?? NaN),
    rowids: Float64Array.from(messages, ({ rowid }) => (rowid === null ? NaN : Number(rowid))),
    uniques: Float64Array.from(messages, ({ unique }) =>
      unique === null ? NaN : hashText(unique)
    ),
    read: (index) => [messages[index]!],
    give: () => false,
    *share(indexes) {
      yield { type: 'own', indexes };
    }
  };
}
