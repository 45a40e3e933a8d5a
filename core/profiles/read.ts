import { append } from '../host';
import type { ReadingProfile } from './profile';
import { StoreStream } from './stream';
import type { TableSet } from './tables';
import type { StoreReading } from './types';

/** All that a profile reads of tables that are small enough for it, at once. */
export function readStore(profile: ReadingProfile, tables: TableSet): StoreReading {
  const stream = new StoreStream(profile, tables);
  const reading = stream.others();
  const { messages } = reading;
  last(stream.learn());
  for (const message of stream.live(null))
    if (message && !('until' in message)) messages.push(message);
  const freed = last(stream.freed());
  for (let i = 0; i < freed.count; i++) append(messages, freed.read(i));
  append(messages, stream.unclaimed());
  return reading;
}

function last<T>(work: Generator<unknown, T>): T {
  let step = work.next();
  while (!step.done) step = work.next();
  return step.value;
}
