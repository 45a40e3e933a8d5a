import { seeded } from '../telephony';

/** A message as it was really sent. */
export interface Said {
  n: number;
  room: number;
  /** 0 is the owner. */
  who: number;
  /** Milliseconds since 1970, whole seconds. */
  at: number;
  text: string;
}

export interface Person {
  name: string;
  address: string;
}

export interface Talk {
  people: Person[];
  /** Members of each conversation beside the owner. */
  rooms: number[][];
  said: Said[];
}

const NAMES =
  'Tilda Ansel Birk Corin Dagny Edda Falk Gerda Hauke Inge Jonas Kalle Lova Maren'.split(' ');
const WORDS =
  `the tide boat quay seven yes no maybe shed key bring tea lamp rope dawn over there please thanks wind
north again later soon who what we should leave before it rains can you call me when done I think so not
sure about friday market fish was good money paid still waiting on answer from harbour office door open
morgen vielleicht später schön größer naïve façade жду завтра спасибо привет دعنا غدا नमस्ते 明日 会議 😀 🚢 👍🏽`.split(
    /\s+/
  );

export interface TalkPlan {
  seed: number;
  groups: boolean;
  count?: number;
  /** How addresses look. */
  addresses: 'mail' | 'phone' | 'handle';
}

/** Conversations of an owner with several people, one by one and in groups. */
export function talk({ seed, groups, count = 480, addresses }: TalkPlan): Talk {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const people = NAMES.slice(0, 9).map((name, i) => ({
    name,
    address: addressOf(name, i, addresses, seed)
  }));
  const rooms: number[][] = [[1], [2], [3], [4], [5], [6]];
  if (groups) rooms.push([1, 3, 7], [2, 4, 8]);
  let at = Date.UTC(2024, (seed * 5) % 12, 3, 7);
  const said = Array.from({ length: count }, (_, n): Said => {
    at += 1000 * (20 + Math.floor(random() ** 3 * 60_000));
    const room = Math.floor(random() ** 1.4 * rooms.length);
    const who = random() < 0.45 ? 0 : pick(rooms[room]!);
    const length = 1 + Math.floor(random() ** 2 * 24);
    const words = Array.from({ length }, () => pick(WORDS)).join(' ');
    const end = pick(['', '.', '?', '!', '', ' 😀']);
    const text = random() < 0.04 ? pick(['ok', 'yes', 'no', '👍', 'thanks']) : words + end;
    return { n, room, who, at, text };
  });
  return { people, rooms, said };
}

function addressOf(name: string, i: number, kind: TalkPlan['addresses'], seed: number): string {
  const low = name.toLowerCase();
  if (kind === 'mail') return `${low}@${['quay', 'chat', 'node'][seed % 3]}.example`;
  if (kind === 'phone') return `+4477009${String(10_000 + i * 137 + (seed % 89)).slice(0, 5)}`;
  return `${low}_${(i * 37 + seed) % 100}`;
}
