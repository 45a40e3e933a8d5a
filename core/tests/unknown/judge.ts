import type { PassResult } from '../pass';
import type { BuiltStore } from './build';
import type { Said } from './talk';

/** How a store was read, as shares of its live messages. */
export interface Verdict {
  fit: number;
  text: number;
  time: number;
  direction: number;
  conversation: number;
  /** Messages that are none, for each that is one. */
  extra: number;
  /** Deleted messages that came back. */
  deleted: number;
  /** Messages whose direction is the opposite of the right one. */
  inverted: number;
  reasons: string[];
}

const ENOUGH = 0.95;
const CONFIDENT = 80;
const WRONG = 0.9;

export function isRight({ text, time, direction, conversation, extra }: Verdict): boolean {
  return [text, time, direction, conversation].every((share) => share >= ENOUGH) && extra <= 0.02;
}

/** Read as if it were sure, and wrong. */
export function isConfidentlyWrong({ fit, text, time, direction, conversation }: Verdict): boolean {
  return fit > CONFIDENT && [text, time, direction, conversation].some((share) => share < WRONG);
}

type Message = PassResult['findings']['messages'][number];

export function judge(
  { live, deleted }: Pick<BuiltStore, 'live' | 'deleted'>,
  { findings, source }: PassResult
): Verdict {
  const own = findings.messages.filter(({ direction }) => direction !== 'system');
  const pairs = paired(
    live,
    own.filter(({ state }) => state === 'live')
  );
  const share = (test: (said: Said, message: Message) => boolean): number =>
    pairs.filter(([said, message]) => test(said, message)).length / live.length;
  const back = paired(
    deleted,
    own.filter(({ state }) => state !== 'live')
  );
  const rooms = roomsOf(pairs);
  const fits = source.inside.candidates.map(({ fit }) => fit);
  return {
    fit: Math.max(0, ...findings.stores.map(({ fit }) => fit), ...fits),
    text: share(() => true),
    time: share((said, { sentAt }) => sentAt !== null && Math.abs(sentAt - said.at) < 1000),
    direction: share(
      (said, { direction }) => direction === (said.who === 0 ? 'outgoing' : 'incoming')
    ),
    inverted: share(
      (said, { direction }) => direction === (said.who === 0 ? 'incoming' : 'outgoing')
    ),
    conversation: share(
      (said, { thread }) =>
        rooms.get(thread) === said.room && soleThread(rooms, pairs, said.room) === thread
    ),
    extra: (own.length - pairs.length - back.length) / live.length,
    deleted: deleted.length === 0 ? 1 : back.length / deleted.length,
    reasons: source.inside.candidates.flatMap(({ reasons }) => reasons)
  };
}

/** Messages by text, the nearest in time first where a text was sent more than once. */
function paired(said: readonly Said[], messages: readonly Message[]): [Said, Message][] {
  const byText = new Map<string, Message[]>();
  for (const message of messages)
    byText.set(message.body, [...(byText.get(message.body) ?? []), message]);
  return said.flatMap((one): [Said, Message][] => {
    const list = byText.get(one.text) ?? [];
    let best = -1;
    list.forEach((message, i) => {
      if (best < 0 || away(message, one) < away(list[best]!, one)) best = i;
    });
    return best < 0 ? [] : [[one, list.splice(best, 1)[0]!]];
  });
}

function away({ sentAt }: Message, { at }: Said): number {
  return sentAt === null ? Infinity : Math.abs(sentAt - at);
}

/** The room that most messages of each thread belong to. */
function roomsOf(pairs: [Said, Message][]): Map<string, number> {
  return mostOf(pairs.map(([said, message]) => [message.thread, said.room]));
}

const threadsByPairs = new WeakMap<object, Map<number, string>>();

/** The thread that most messages of a room came into. */
function soleThread(
  _rooms: Map<string, number>,
  pairs: [Said, Message][],
  room: number
): string | undefined {
  let threads = threadsByPairs.get(pairs);
  if (!threads)
    threadsByPairs.set(
      pairs,
      (threads = mostOf(pairs.map(([said, message]) => [said.room, message.thread])))
    );
  return threads.get(room);
}

function mostOf<A, B>(list: [A, B][]): Map<A, B> {
  const counts = new Map<A, Map<B, number>>();
  for (const [a, b] of list) {
    const inner = counts.get(a) ?? new Map<B, number>();
    counts.set(a, inner.set(b, (inner.get(b) ?? 0) + 1));
  }
  return new Map(
    [...counts].map(([a, inner]) => [a, [...inner].sort((x, y) => y[1] - x[1])[0]![0]])
  );
}
