import type { Findings, JsonFrame } from '../records';
import type { FreedMessages, MessageStream, StoreMessage, StoreReading, Wait } from '../profiles';
import { AddressBook, guessHome, type CountryCode } from './address';
import { Assembly, type StoreFacts } from './assembly';
import { StreamFolder, type FoldedMessage } from './fold';
import type { LinesCrew } from './line-crew';
import { PlainLines, type RecordsOut } from './plain-lines';

/** Messages as they come, with how many of how many have come. */
interface StreamStep extends RecordsOut {
  /** Nothing goes on before that. */
  until?: Promise<unknown>;
  done: number;
  total: number;
}

/** How a store leaves. */
export interface StreamOptions {
  region: CountryCode | null;
  isWanted: (message: StoreMessage) => boolean;
  /** Messages leave as JSON in this frame; null for batches. */
  frame: JsonFrame | null;
  /** Ordinary rows need not be made messages of: none is left out, and nothing is said of them later. */
  asRows: boolean;
  /** Threads that write beside this one. */
  crew: LinesCrew | null;
}

/**
 * Turns one store's messages into records: copies folded, addresses joined
 * to people, conversations told apart, ids given. Ids depend on the input
 * alone, so the same source gives the same ids again. Live messages leave in
 * batches about in the order of their table; freed ones follow, and what else
 * was found comes last. `others` are its calls, contacts and names.
 */
export function* assembleStore(
  facts: StoreFacts,
  stream: MessageStream,
  others: StoreReading,
  { region, isWanted, frame, asRows, crew }: StreamOptions
): Generator<StreamStep, Findings> {
  const { liveCount: total } = stream;
  for (const { done } of stream.learn()) yield nothingYet(done, total);
  const home = region
    ? { country: region }
    : guessHome(allAddresses({ ...others, messages: stream.sample() }));
  const assembly = new Assembly(facts, new AddressBook(home), stream.asked);
  const folder = new StreamFolder(yield* freedOf(stream), isWanted);
  const lines = new PlainLines(frame, assembly, folder, crew);
  const messages = everyMessage(stream, folder, isWanted, asRows ? lines : null);
  yield* batches(messages, assembly, lines, total);
  for (const call of others.calls) assembly.addCall(call);
  for (const contact of others.contacts) assembly.addContact(contact);
  assembly.nameAll(others.names);
  const findings = assembly.finish(others.numbered);
  for (const message of assembly.takeMessages()) lines.add(message);
  yield { ...lines.take(), done: total, total };
  return findings;
}

/** All messages but those that are written at once; null now and then. */
function* everyMessage(
  stream: MessageStream,
  folder: StreamFolder,
  isWanted: (message: StoreMessage) => boolean,
  lines: PlainLines | null
): Generator<FoldedMessage | Wait | null> {
  for (const message of stream.live(lines)) {
    if (message === null || 'until' in message) yield message;
    else if (isWanted(message)) yield folder.live(message);
  }
  yield* folder.rest(() => stream.unclaimed(), lines);
}

function* batches(
  messages: Iterable<FoldedMessage | Wait | null>,
  assembly: Assembly,
  lines: PlainLines,
  total: number
): Generator<StreamStep> {
  for (const message of messages) {
    if (message && 'until' in message) {
      yield { ...batch(assembly, lines, total), until: message.until };
      continue;
    }
    if (message) add(message, assembly, lines);
    // What is a message of its own may come without a rest between.
    if (lines.isFull || message === null) yield batch(assembly, lines, total);
  }
  yield { ...lines.take(), done: Math.min(total, assembly.counted), total };
}

function add(message: FoldedMessage, assembly: Assembly, lines: PlainLines): void {
  lines.learn(message, assembly.add(message));
  // All but answers, which wait for what they answer.
  for (const ready of assembly.takeMessages()) lines.add(ready);
}

function batch(assembly: Assembly, lines: PlainLines, total: number): StreamStep {
  const taken = lines.isFull ? lines.take() : { batches: [], json: [], written: 0 };
  return { ...taken, done: Math.min(total, assembly.counted), total };
}

function nothingYet(done: number, total: number): StreamStep {
  return { batches: [], json: [], written: 0, done, total };
}

function* freedOf(stream: MessageStream): Generator<StreamStep, FreedMessages> {
  const work = stream.freed();
  let step = work.next();
  for (; !step.done; step = work.next()) yield nothingYet(0, stream.liveCount);
  return step.value;
}

function allAddresses({ messages, calls, contacts }: StoreReading): Set<string> {
  const seen = new Set<string>();
  const threads = new Set<object>();
  for (const { sender, thread } of messages) {
    if (sender !== null) seen.add(sender);
    if (threads.has(thread)) continue;
    threads.add(thread);
    for (const address of thread.participants) seen.add(address);
  }
  for (const { address } of calls) if (address !== null) seen.add(address);
  for (const { phones } of contacts) for (const phone of phones) seen.add(phone);
  return seen;
}
