import { OWNER, type BatchContext } from '../../records';
import type { RowColumns } from './model';

/** Lines of which at most so many are looked at: of more, those whose contents a share of all hashes to. */
const MOST_LOOKED_AT = 200_000;
/** What is said as often as that tells nobody. */
const MOST_ALIKE = 40;
/** Clocks of two devices, and times to the second, differ by as much. */
const WITHIN = 2000;

/** What is known of a store whose lines may also be another's. */
export interface ToldLines {
  contexts: readonly BatchContext[];
  columns: Pick<RowColumns, 'context' | 'sentAt' | 'contentKey'>;
  /** Everybody that it knows: whom a store tells apart are two. */
  people: ReadonlySet<string>;
}

/** How often two people of two stores wrote the same at the same moment, and how often they could have. */
export interface WroteTheSame {
  a: string;
  b: string;
  count: number;
  of: number;
}

interface Said {
  at: number;
  sender: string;
  store: number;
}

/** Finds people of several stores who wrote the same words at the same moments. */
export function wroteTheSame(stores: readonly ToldLines[]): WroteTheSame[] {
  if (stores.length < 2) return [];
  const said = linesByContent(stores);
  const votes = new Map<string, WroteTheSame>();
  for (const list of said.values()) {
    if (list.length < 2 || list.length > MOST_ALIKE) continue;
    vote(list, stores, votes);
  }
  if (votes.size === 0) return [];
  const spans = new Spans(stores);
  return [...votes.values()].map((pair) => ({
    ...pair,
    of: spans.common(pair.a, pair.b, pair.of)
  }));
}

/** Calls for each line of somebody else than the owner that is looked at. */
function eachSaid(stores: readonly ToldLines[], take: (said: Said, content: number) => void): void {
  const total = stores.reduce((sum, { columns }) => sum + columns.sentAt.length, 0);
  const every = Math.max(1, Math.ceil(total / MOST_LOOKED_AT));
  stores.forEach(({ contexts, columns }, store) => {
    for (let row = 0; row < columns.sentAt.length; row++) {
      const content = columns.contentKey[row]!;
      const at = columns.sentAt[row]!;
      if (Number.isNaN(content) || Number.isNaN(at) || content % every !== 0) continue;
      const { sender } = contexts[columns.context[row]!]!;
      if (sender !== null && sender !== OWNER) take({ at, sender, store }, content);
    }
  });
}

function linesByContent(stores: readonly ToldLines[]): Map<number, Said[]> {
  const said = new Map<number, Said[]>();
  eachSaid(stores, (one, content) => put(said, content, one));
  return said;
}

function put<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

function vote(
  list: readonly Said[],
  stores: readonly ToldLines[],
  votes: Map<string, WroteTheSame>
): void {
  for (let i = 0; i < list.length; i++)
    for (let j = i + 1; j < list.length; j++) {
      const [one, other] = [list[i]!, list[j]!];
      if (one.store === other.store || one.sender === other.sender) continue;
      if (Math.abs(one.at - other.at) > WITHIN) continue;
      if (stores.some(({ people }) => people.has(one.sender) && people.has(other.sender))) continue;
      const [a, b] =
        one.sender < other.sender ? [one.sender, other.sender] : [other.sender, one.sender];
      const key = `${a}\n${b}`;
      const known = votes.get(key);
      if (known) known.count++;
      else votes.set(key, { a, b, count: 1, of: 0 });
    }
}

/** When people wrote, to tell how many of their lines two could share. */
class Spans {
  private readonly moments = new Map<string, number[]>();

  constructor(stores: readonly ToldLines[]) {
    eachSaid(stores, ({ sender, at }) => put(this.moments, sender, at));
  }

  /** The smaller number of lines that either wrote while both did. */
  common(a: string, b: string, none: number): number {
    const [own, other] = [this.moments.get(a) ?? [], this.moments.get(b) ?? []];
    if (own.length === 0 || other.length === 0) return none;
    const from = Math.max(least(own), least(other)) - WITHIN;
    const to = Math.min(most(own), most(other)) + WITHIN;
    const within = (list: readonly number[]): number =>
      list.filter((at) => at >= from && at <= to).length;
    return Math.min(within(own), within(other));
  }
}

function least(list: readonly number[]): number {
  return list.reduce((a, b) => Math.min(a, b), Infinity);
}

function most(list: readonly number[]): number {
  return list.reduce((a, b) => Math.max(a, b), -Infinity);
}
