import { CHARACTERS, GROUPS, type CharacterKey } from './people';
import { Random } from './random';
import { TALKS, type Talk } from './smalltalk';
import { BEATS, type Speaker } from './story';

/** One message of the demo before it is written into a store. */
export interface ScriptLine {
  /** Milliseconds since 1970. */
  at: number;
  store: 'phone' | 'tablet';
  with: string;
  by: Speaker;
  text: string;
  deleted: boolean;
  picture: string | null;
}

const FIRST_DAY = Date.UTC(2025, 8, 1);
const LAST_DAY = Date.UTC(2026, 10, 1);
const DAY = 86_400_000;
const MONTH = 30 * DAY;

/** The whole script in the order of time: the story, and daily life around it. */
export function writeScript(seed = 20260403): ScriptLine[] {
  const random = new Random(seed);
  const lines = BEATS.map(storyLine);
  for (const talk of TALKS) lines.push(...dailyLife(talk, random));
  return lines.sort((a, b) => a.at - b.at);
}

function storyLine(beat: (typeof BEATS)[number]): ScriptLine {
  return {
    at: osloTime(beat.at),
    store: isGroup(beat.with) ? 'tablet' : 'phone',
    with: beat.with,
    by: beat.by,
    text: beat.text,
    deleted: beat.deleted ?? false,
    picture: beat.picture ?? null
  };
}

/** Wall time in the zone of the story: one hour ahead of UTC in winter, two in summer. */
function osloTime(text: string): number {
  const utc = Date.parse(`${text.replace(' ', 'T')}Z`);
  return utc - (isSummer(utc) ? 2 : 1) * 3_600_000;
}

function isSummer(at: number): boolean {
  const year = new Date(at).getUTCFullYear();
  return at >= lastSunday(year, 2) && at < lastSunday(year, 9);
}

function lastSunday(year: number, month: number): number {
  const end = new Date(Date.UTC(year, month + 1, 0));
  return end.getTime() - end.getUTCDay() * DAY + 3_600_000;
}

export function isGroup(key: string): key is keyof typeof GROUPS {
  return key in GROUPS;
}

function dailyLife(talk: Talk, random: Random): ScriptLine[] {
  const out: ScriptLine[] = [];
  const recent: number[] = [];
  const step = MONTH / talk.often;
  for (
    let at = FIRST_DAY + random.next() * step;
    at < LAST_DAY;
    at += step * (0.3 + 1.4 * random.next())
  ) {
    const index = freshIndex(talk.exchanges.length, recent, random);
    const start = daytime(at, random);
    if (!inStoryHours(start, talk.with))
      out.push(...play(talk, talk.exchanges[index]!, start, random));
  }
  return out;
}

/** Not one of the last few, so that talk does not repeat itself too soon. */
function freshIndex(count: number, recent: number[], random: Random): number {
  let index = random.int(0, count - 1);
  while (recent.includes(index)) index = (index + 1) % count;
  recent.push(index);
  if (recent.length > Math.min(5, count - 1)) recent.shift();
  return index;
}

function daytime(at: number, random: Random): number {
  const midnight = Math.floor(at / DAY) * DAY;
  return midnight + random.int(5 * 3600, 20 * 3600) * 1000 + random.int(0, 999);
}

/** Keeps the days of the story free of chatter in the same conversation. */
function inStoryHours(at: number, partner: string): boolean {
  return BEATS.some((beat) => beat.with === partner && Math.abs(osloTime(beat.at) - at) < DAY / 3);
}

function play(talk: Talk, exchange: string[], start: number, random: Random): ScriptLine[] {
  let at = start;
  return exchange.map((pattern) => {
    const [mark, ...rest] = pattern.split(' ');
    const text = fill(rest.join(' '), random);
    const line: ScriptLine = {
      at,
      store: talk.store,
      with: talk.with,
      by: speakerOf(mark!, talk.with),
      text,
      deleted: false,
      picture: null
    };
    at += random.int(20, 900) * 1000 + random.int(0, 999);
    return line;
  });
}

function speakerOf(mark: string, partner: string): Speaker {
  if (mark === '>') return 'me';
  if (mark === '<') return partner as CharacterKey;
  const group = GROUPS[partner as keyof typeof GROUPS];
  return group.members[Number(mark.replace(':', '')) - 1]!;
}

function fill(pattern: string, random: Random): string {
  return pattern.replace(/\{([^}]*)\}/g, (_, options: string) => random.pick(options.split('|')));
}

export function addressOf(key: CharacterKey): string {
  return CHARACTERS[key].address;
}
