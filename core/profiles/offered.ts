import type { TableSchema } from '../sqlite';
import { mainTables, type Choice } from './fit';
import type { ReadingProfile } from './profile';
import { readStore } from './read';
import { resolveProfile } from './resolve';
import { TableSet } from './tables';
import type { StoreMessage } from './types';
import { readableRows } from './inferred/fields';
import type { SampledTable } from './inferred/sample';

/** What a profile of another make must read at the least to be taken. */
const LEAST_READ = 3;
/** Share of the fit that does not hang on whether the direction is known. */
const WITHOUT_DIRECTION = 0.8;
/** Moments between which messages were sent: 1985 to 2100. */
const [EARLIEST, LATEST] = [Date.UTC(1985, 0), Date.UTC(2100, 0)];

/**
 * How well a profile that was saved for other stores reads the rows of these
 * tables, judged by what it gives and not by names: the share of a table's
 * sampled rows that become messages with words and a moment. Null where it
 * gives next to nothing.
 */
export function offeredChoice(
  profile: ReadingProfile,
  tables: readonly TableSchema[],
  samples: readonly SampledTable[]
): Choice | null {
  const resolved = resolveProfile(profile, [...tables]);
  const wanted = new Set(mainTables(resolved));
  const own = samples.filter(({ name }) => wanted.has(name.toLowerCase()));
  const rows = own.reduce((sum, sample) => sum + sample.rows.length, 0);
  if (rows === 0) return null;
  const set = new TableSet(samples.map(({ schema, rows }) => readableRows(schema, rows)));
  const { messages } = readStore(resolved, set);
  const sound = messages.filter(isSound);
  if (sound.length < LEAST_READ) return null;
  const known = sound.filter(({ direction }) => direction !== 'unknown').length / sound.length;
  const share = Math.min(1, sound.length / rows);
  const fit = Math.round(100 * share * (WITHOUT_DIRECTION + (1 - WITHOUT_DIRECTION) * known));
  const reason = `the profile “${profile.title}”, saved in another case, reads ${sound.length} of ${rows} sampled rows`;
  return { profile: resolved, fit, reasons: [reason] };
}

function isSound({ body, sentAt }: StoreMessage): boolean {
  return body !== '' && sentAt !== null && sentAt > EARLIEST && sentAt < LATEST;
}
