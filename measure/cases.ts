import { messages, seeded, type SentMessage } from '../core/tests/telephony';
import type { Depth } from '../core/records';
import { runHistory, type LyingFiles } from './histories';
import { RECIPES, type Recipe } from './recipes';
import { dialects, type Dialect } from './statements';

/** One source of the corpus, with what was put into it and what was taken out. */
export interface RecoveryCase {
  name: string;
  files: Record<string, Uint8Array>;
  encoding: 'utf8' | 'utf16le' | 'utf16be';
  depth: Depth;
  /** Bytes of the source were destroyed, so that live messages may be missing too. */
  damaged: boolean;
  /** Nothing in the source says which of its pages were in use. */
  loose: boolean;
  /** Messages in the committed state. */
  live: SentMessage[];
  /** Messages that were deleted, and earlier wordings of those that were edited. */
  deleted: SentMessage[];
}

/** Makes the corpus one case at a time; the same seed gives the same histories. */
export function* recoveryCases(
  seed: number,
  only?: string,
  most = Infinity
): Generator<RecoveryCase> {
  for (const [i, recipe] of RECIPES.entries()) {
    if (only && !recipe.name.includes(only)) continue;
    yield cook({ ...recipe, count: Math.min(recipe.count ?? USUAL, most) }, seed + i * 1000);
  }
}

/** Messages of a case that says nothing else. */
const USUAL = 3000;

function cook(recipe: Recipe, seed: number): RecoveryCase {
  const random = seeded(seed);
  const story = tell(recipe, random);
  const lying = runHistory(story.script);
  const files = recipe.damage ? recipe.damage(lying, random) : named(lying);
  return {
    name: recipe.name,
    files,
    encoding: recipe.encoding ?? 'utf8',
    depth: recipe.depth ?? 'freed',
    damaged: recipe.damage !== undefined,
    loose: recipe.loose ?? false,
    live: story.live,
    deleted: story.deleted
  };
}

function named({ main, wal, journal }: LyingFiles): Record<string, Uint8Array> {
  const files: Record<string, Uint8Array> = { 'messages.db': main };
  if (wal && wal.length > 0) files['messages.db-wal'] = wal;
  if (journal && journal.length > 0) files['messages.db-journal'] = journal;
  return files;
}

interface Story {
  script: string;
  live: SentMessage[];
  deleted: SentMessage[];
}

function tell(recipe: Recipe, random: () => number): Story {
  const dialect = dialects[recipe.dialect ?? 'telephony']();
  const count = recipe.count ?? USUAL;
  const all = messages(count + (recipe.after ?? 0), random, WORDS).map((m) =>
    recipe.long ? { ...m, body: lengthened(m.body, random) } : m
  );
  const first = all.slice(0, count);
  const later = all.slice(count);
  const removed = recipe.remove(first, random);
  const gone = new Set(removed);
  const edited = recipe.edit ? first.filter((m) => !gone.has(m) && random() < recipe.edit!) : [];
  const changed = new Set(edited);
  const live = all
    .filter((message) => !gone.has(message))
    .map((m) => (changed.has(m) ? { ...m, body: rewritten(m.body) } : m));
  const parts = {
    schema: dialect.schema,
    inserts: inOneGo(first.map((m) => dialect.insert(m))),
    removes: removal(recipe, dialect, removed),
    edits: inOneGo(edited.map((m) => dialect.edit(m, rewritten(m.body)))),
    later: inOneGo(later.map((m) => dialect.insert(m)))
  };
  const told = recipe.tell?.(parts) ?? Object.values(parts).join('\n');
  const script = `PRAGMA secure_delete=${recipe.secure ?? 'OFF'};\n${recipe.pragmas ?? ''}\n${told}`;
  const undone = recipe.undone ?? false;
  return undone
    ? { script, live: first, deleted: [] }
    : { script, live, deleted: [...removed, ...edited] };
}

/** So many that no stretch of a message stands in another by chance. */
const WORDS = (
  'tide slip oak ferry tar rope lamp quay gull mast keel anchor herring fog bell ' +
  'pitch plank rudder tiller sail buoy chart compass deck hull jetty ladder mooring net oar ' +
  'paddle pier pump raft reef rigging shoal skiff spar squall stern tackle thwart tow trawl ' +
  'wake wharf winch yard cove dory eddy fender gaff hatch inlet jib kelp locker'
).split(' ');

/** Up to some thousands of characters, no stretch of which stands anywhere else. */
function lengthened(body: string, random: () => number): string {
  const more = Math.floor(random() ** 2 * 700);
  const words = Array.from({ length: more }, () => Math.floor(random() * 1e9).toString(36));
  return `${body} ${words.join(' ')}`.trim();
}

function rewritten(body: string): string {
  return body.split(' ').reverse().join(' ');
}

function removal(recipe: Recipe, dialect: Dialect, removed: SentMessage[]): string {
  switch (recipe.how ?? 'one by one') {
    case 'one by one':
      return inOneGo(removed.map((m) => dialect.remove(m)));
    case 'at once':
      return dialect.tables.map((name) => `DELETE FROM ${name};`).join('');
    case 'drop':
      return dialect.tables.map((name) => `DROP TABLE ${name};`).join('');
  }
}

function inOneGo(statements: string[]): string {
  return statements.length === 0 ? '' : `BEGIN;\n${statements.join('\n')}\nCOMMIT;\n`;
}
