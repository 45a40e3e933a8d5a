import type { Findings, JsonChunk, JsonFrame, Message } from '../records';
import type { FreedMessages, StoreMessage, StoreReading, StoreStream, Wait } from '../stores';
import { AddressBook, guessHome, type CountryCode } from './address';
import { Assembly, type StoreFacts } from './assembly';
import { foldMessages, StreamFolder, type FoldedMessage } from './fold';
import type { LinesCrew } from './line-crew';
import { PlainLines } from './plain-lines';

/**
 * Turns one store's messages into records: copies folded, addresses joined
 * to people, conversations told apart, ids given. Ids depend on the input
 * alone, so the same source gives the same ids again.
 */
export function assembleStore(
  facts: StoreFacts,
  reading: StoreReading,
  region: CountryCode | null
): Findings {
  const home = region ? { country: region } : guessHome(allAddresses(reading));
  const assembly = new Assembly(facts, new AddressBook(home));
  for (const message of foldMessages(reading.messages)) assembly.add(message);
  for (const call of reading.calls) assembly.addCall(call);
  for (const contact of reading.contacts) assembly.addContact(contact);
  assembly.nameAll(reading.names);
  return assembly.finish(reading.numbered);
}

interface StreamStep {
  messages: Message[];
  /** Records that were written as JSON at once, in order. */
  json: JsonChunk[];
  /** How many records that are. */
  written: number;
  /** Nothing goes on before that. */
  until?: Promise<unknown>;
  done: number;
  total: number;
}

/** How a large store leaves. */
export interface StreamOptions {
  region: CountryCode | null;
  isWanted: (message: StoreMessage) => boolean;
  /** Messages are written as JSON at once, in this frame, as far as they can leave at once. */
  frame: JsonFrame | null;
  /** Threads that write beside this one. */
  crew: LinesCrew | null;
}

/**
 * The same for a store that is too large to be held: live messages come one
 * by one and leave in batches, in the order of their table; freed ones follow,
 * and what else was found comes last. `others` are its calls, contacts and names.
 */
export function* assembleStreamed(
  facts: StoreFacts,
  stream: StoreStream,
  others: StoreReading,
  { region, isWanted, frame, crew }: StreamOptions
): Generator<StreamStep, Findings> {
  const { liveCount: total } = stream;
  for (const { done } of stream.learn()) yield nothingYet(done, total);
  const home = region
    ? { country: region }
    : guessHome(allAddresses({ ...others, messages: stream.sample() }));
  const assembly = new Assembly(facts, new AddressBook(home), stream.asked);
  const folder = new StreamFolder(yield* freedOf(stream), isWanted);
  const lines = frame && new PlainLines(frame, assembly, folder, crew);
  yield* batches(everyMessage(stream, folder, isWanted, lines), assembly, lines, total);
  for (const call of others.calls) assembly.addCall(call);
  for (const contact of others.contacts) assembly.addContact(contact);
  assembly.nameAll(others.names);
  const findings = assembly.finish(others.numbered);
  yield { ...nothingYet(total, total), messages: findings.messages };
  return { ...findings, messages: [] };
}

/** All messages but those that are written at once; null now and then. */
function* everyMessage(
  stream: StoreStream,
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
  lines: PlainLines | null,
  total: number
): Generator<StreamStep> {
  let waiting = 0;
  for (const message of messages) {
    if (message && 'until' in message) {
      yield { ...batch(assembly, lines, total), until: message.until };
      continue;
    }
    if (message) {
      add(message, assembly, lines);
      waiting++;
    }
    if (message ? waiting < BATCH : !lines?.isFull) continue;
    waiting = 0;
    yield batch(assembly, lines, total);
  }
  yield batch(assembly, lines, total);
}

function add(message: FoldedMessage, assembly: Assembly, lines: PlainLines | null): void {
  const record = assembly.add(message);
  if (!lines) return;
  lines.learn(message, record);
  // All but answers, which wait for what they answer.
  for (const ready of assembly.takeMessages()) lines.add(ready);
}

function batch(assembly: Assembly, lines: PlainLines | null, total: number): StreamStep {
  const taken = lines?.take() ?? { json: [], written: 0 };
  const done = Math.min(total, assembly.counted);
  return { messages: assembly.takeMessages(), ...taken, done, total };
}

function nothingYet(done: number, total: number): StreamStep {
  return { messages: [], json: [], written: 0, done, total };
}

function* freedOf(stream: StoreStream): Generator<StreamStep, FreedMessages> {
  const work = stream.freed();
  let step = work.next();
  for (; !step.done; step = work.next()) yield nothingYet(0, stream.liveCount);
  return step.value;
}

const BATCH = 2000;

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
