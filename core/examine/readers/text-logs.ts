import {
  placeOf,
  readLog,
  type ChatLog,
  type LogEntry,
  type LogPlace
} from '../../formats/textlog';
import { baseName, type TreeFile } from '../../formats';
import type { Direction, GlancedPart } from '../../records';
import type { StoreAttachment, StoreMessage, StoreReading, StoreThread } from '../../profiles';
import { openNow } from '../attachments';
import {
  isLong,
  MOST_LOOKED,
  MOST_TEXT,
  textPart,
  textsIn,
  zoneSentence,
  type StoreReader
} from './reader';

/** Logs of one account's conversations, which one program wrote. */
interface LogGroup {
  path: string;
  logs: PlacedLog[];
  files: TreeFile[];
}

/** A log with what its place says. */
interface PlacedLog {
  log: ChatLog;
  place: LogPlace;
}

const MOST_BYTES = 256 << 20;

/** Reads every text that is a chat log; those of one account belong together. Yields what failed, and between files. */
function* findLogs(
  files: TreeFile[],
  zone: string
): Generator<{ error: unknown; path: string } | undefined, LogGroup[]> {
  const groups = new Map<string, LogGroup>();
  for (const file of files) {
    if (file.mark !== 'text' || (file.file.size ?? 0) > MOST_BYTES) continue;
    const { path } = file.file;
    let log: ChatLog | null = null;
    try {
      const source = openNow(file.file);
      log = source && readLog(source.read(0, source.size), path, zone);
      yield;
    } catch (error) {
      yield { error, path };
    }
    if (!log) continue;
    const place = placeOf(log.path);
    const group = groups.get(place.group) ?? { path: log.path, logs: [], files: [] };
    group.logs.push({ log, place });
    group.files.push(file);
    groups.set(place.group, group);
  }
  return [...groups.values()].filter(isLog);
}

/** Entries that logs must have together where each has few. */
const LEAST_ENTRIES = 3;

/** A text with one or two dated lines is a log only among others. */
function isLog({ logs }: LogGroup): boolean {
  if (logs.some(({ log }) => !log.isShort)) return true;
  const entries = logs.reduce((sum, { log }) => sum + log.entries.length, 0);
  return logs.length >= 2 && entries >= LEAST_ENTRIES;
}

/** Words by which programs call the owner. */
const OWN_WORDS = new Set(
  'you me myself du ich yo moi je ja ik io eu jag jeg minä sinä vous toi tú você sen ben вы я ты 你 我 あなた 自分 나'.split(
    ' '
  )
);

/** A conversation of a group: all logs of one place. */
interface Conversation {
  place: LogPlace;
  title: string | null;
  senders: Set<string>;
  /** Senders of entries that a mark says are the owner's. */
  own: Set<string>;
  /** The names are those of the other party, whoever wrote. */
  namesPeers: boolean;
  /** Who takes part beside the owner. */
  others: string[];
  threads: Map<string, StoreThread>;
}

/** What the logs of an account say, as a store's reading. `has` tells whether the source holds a file of a name. */
function logReading(group: LogGroup, has: (name: string) => boolean): StoreReading {
  const conversations = conversationsOf(group);
  const owner = ownerOf([...conversations.values()]);
  for (const conversation of conversations.values())
    conversation.others = othersIn(conversation, owner);
  const messages = group.logs.flatMap(({ log, place }) =>
    log.entries.map((entry) => messageOf(log, entry, conversations.get(place.key)!, owner, has))
  );
  return { messages, calls: [], contacts: [], names: new Map(), numbered: [] };
}

function conversationsOf({ logs }: LogGroup): Map<string, Conversation> {
  const found = new Map<string, Conversation>();
  for (const { log, place } of logs) {
    const known = found.get(place.key) ?? {
      place,
      title: null,
      senders: new Set(),
      own: new Set(),
      namesPeers: false,
      others: [],
      threads: new Map()
    };
    found.set(place.key, known);
    known.title ??= log.title;
    for (const { sender, side } of log.entries) {
      if (sender === null) continue;
      known.senders.add(sender);
      if (side === 'outgoing') known.own.add(sender);
    }
    known.namesPeers ||= namesPeers(log);
  }
  return found;
}

/** Whether the same names stand in what was sent and in what came in. */
function namesPeers({ entries }: ChatLog): boolean {
  const of = (wanted: LogEntry['side']): Set<string> =>
    new Set(entries.flatMap(({ sender, side }) => (side === wanted ? (sender ?? []) : [])));
  const [sent, received] = [of('outgoing'), of('incoming')];
  return [...sent].some((name) => received.has(name));
}

function logLimits({ logs }: LogGroup): string[] {
  const limits = ['A text log keeps nothing of what was deleted from it.'];
  const [order] = logs.flatMap(({ log }) => log.order ?? []);
  if (order) limits.push(`In its dates ${order}, as the whole file shows.`);
  return limits;
}

/** The owner of the device that wrote the logs; null when nothing tells. */
function ownerOf(conversations: readonly Conversation[]): string | null {
  const all = [...new Set(conversations.flatMap(({ senders }) => [...senders]))];
  const byWord = all.find((name) => OWN_WORDS.has(name.toLowerCase()));
  if (byWord !== undefined) return byWord;
  const marked = new Set(conversations.flatMap(({ own }) => [...own]));
  if (marked.size === 1) return [...marked][0]!;
  return byAccount(conversations, all) ?? byPresence(conversations, all) ?? byTitle(conversations);
}

/** A writer called like the folder in which the conversations lie. */
function byAccount([first]: readonly Conversation[], all: readonly string[]): string | null {
  const folders = first?.place.group.split('/') ?? [];
  const found = all.filter((name) => folders.some((folder) => sameName(folder, name)));
  return found.length === 1 ? found[0]! : null;
}

function sameName(folder: string, name: string): boolean {
  const [a, b] = [folder.toLowerCase(), name.toLowerCase()];
  return a === b || a === b.replace(/\/.*$/, '') || (a.includes('@') && a.split('@')[0] === b);
}

/** The one who writes in all conversations, or in nearly all of many. */
function byPresence(conversations: readonly Conversation[], all: readonly string[]): string | null {
  const spoken = conversations.filter(({ senders }) => senders.size > 1);
  if (spoken.length < 2) return null;
  const share = (name: string): number =>
    spoken.filter(({ senders }) => senders.has(name)).length / spoken.length;
  const ranked = all
    .map((name) => ({ name, share: share(name) }))
    .sort((a, b) => b.share - a.share);
  const [first, second] = ranked;
  const alone = first && first.share >= 0.8 && (!second || second.share < first.share);
  return alone ? first.name : null;
}

/** The heading names the other party surest, then the place of the log. */
function byTitle(conversations: readonly Conversation[]): string | null {
  for (const { place, title, senders } of conversations) {
    const [a, b, c] = senders;
    if (a === undefined || b === undefined || c !== undefined) continue;
    for (const told of [title ?? '', place.name, place.key]) {
      const has = (name: string): boolean => told.toLowerCase().includes(name.toLowerCase());
      if (has(a) !== has(b)) return has(a) ? b : a;
    }
  }
  return null;
}

function directionOf({ sender, side }: LogEntry, owner: string | null): Direction {
  if (side) return side;
  if (sender === null) return 'system';
  if (sender === owner) return 'outgoing';
  return owner === null ? 'unknown' : 'incoming';
}

/** Who takes part beside the owner; where no name is written, the place names the other party. */
/** Names past which a text is no conversation of so many, but one whose lines happen to look so. */
const MOST_OTHERS = 2000;

function othersIn({ senders, own, place }: Conversation, owner: string | null): string[] {
  const others = [...senders].filter((name) => name !== owner && !own.has(name));
  return others.length === 0 ? [place.name] : others.slice(0, MOST_OTHERS);
}

/** Messages of one conversation share what is said of it. */
function threadOf({ place, title, threads }: Conversation, others: string[]): StoreThread {
  const isGroup = others.length > 1;
  const key = isGroup ? place.key : (others[0] ?? place.key);
  let known = threads.get(key);
  if (!known) {
    known = {
      key,
      participants: others,
      peer: null,
      title: isGroup ? (title ?? place.name) : null,
      counted: null
    };
    threads.set(key, known);
  }
  return known;
}

function messageOf(
  log: ChatLog,
  entry: LogEntry,
  conversation: Conversation,
  owner: string | null,
  has: (name: string) => boolean
): StoreMessage {
  const { at, sender, text, offset, length } = entry;
  const others = conversation.namesPeers && sender !== null ? [sender] : conversation.others;
  const direction = directionOf(entry, owner);
  const isOwn = direction === 'outgoing';
  const written = direction === 'system' ? null : (sender ?? others[0] ?? null);
  return {
    key: `${log.path}/@${offset.toString(16)}`,
    table: log.path,
    rowid: null,
    unique: `${log.path}@${offset}`,
    direction,
    sender: isOwn ? null : written,
    sentAt: at,
    deliveredAt: null,
    readAt: null,
    body: text,
    subject: null,
    state: 'live',
    purgeAt: null,
    certainty: 100,
    reasons: [`entry of the log ${baseName(log.path)}`],
    proofs: [{ path: log.path, page: null, offset, length, method: 'text' }],
    thread: threadOf(conversation, others),
    attachments: attachmentsOf(text, has),
    replyTo: null,
    reactions: [],
    location: null,
    earlierOf: null
  };
}

const SUFFIXES =
  'jpe?g|png|gif|webp|heic|bmp|tiff?|mp4|mov|3gp|mkv|avi|webm|mp3|m4a|aac|opus|ogg|oga|amr|wav|caf|pdf|docx?|xlsx?|pptx?|odt|txt|vcf|zip|apk|csv';
const NAMED = new RegExp(`[^\\s/\\\\<>:"|?*][^/\\\\<>:"|?*\\n]*?\\.(?:${SUFFIXES})(?![\\w])`, 'gi');
/** Forms in which exports mark a file: `<word: name>`, `name (words)`, or the mark of direction before it. */
const MARKED = /^\u200e?<[^<>]{0,30}:\s*[^<>]+>|\([^()]{3,40}\)\s*$|^\u200e/;

const LONGEST_LINE = 1000;

function attachmentsOf(text: string, has: (name: string) => boolean): StoreAttachment[] {
  // Names of files stand where a line begins or soon after; a search through long words would not end.
  const first = text.slice(0, LONGEST_LINE).split('\n', 1)[0]!;
  const bare = first.replace(/[\u200e\u200f\u202a-\u202e]/g, '');
  const names = [...bare.matchAll(NAMED)].flatMap(([found]) => candidatesOf(found));
  const there = names.find(has);
  const named = there ?? (MARKED.test(first) ? names[names.length - 1] : undefined);
  if (named === undefined) return [];
  const nothing = { mime: null, bytes: null, width: null, height: null, seconds: null };
  return [{ ...nothing, name: named, path: named, state: 'live', thumbnail: null }];
}

/** A name may hold blanks, and words may stand before it: all endings at a blank, the longest first. */
function candidatesOf(found: string): string[] {
  const words = found.trim().split(' ');
  return words.map((_, i) => words.slice(i).join(' '));
}

export const TEXT_LOGS: StoreReader = {
  id: 'text-log',

  async *read(exam) {
    const { zone, want } = exam.request;
    if (!want.kinds.has('messages')) return;
    const work = findLogs(exam.texts(), zone);
    let step = work.next();
    for (; !step.done; step = work.next()) {
      if (step.value) yield exam.failed(step.value.error, step.value.path);
      if (exam.pace.due) await exam.pace.rest();
    }
    for (const group of step.value) {
      exam.isA('log');
      for (const file of group.files) exam.took(file);
      const zoned = group.logs.some(({ log }) => log.zoneless) ? [zoneSentence(zone)] : [];
      const limits = [...logLimits(group), ...zoned];
      const facts = { path: group.path, profile: 'text-log', fit: 100, limits };
      yield* exam.give(
        facts,
        logReading(group, (name) => exam.has(name))
      );
    }
  },

  async peek({ tree, zone, rest }) {
    const texts = textsIn(tree);
    const parts: GlancedPart[] = [];
    let left = texts.length > MOST_LOOKED ? MORE_TEXTS : null;
    for (const text of texts.slice(0, MOST_LOOKED)) {
      const part = seenLog(text, zone);
      if (part) parts.push(part);
      if (isLong(text)) left = MORE_TEXTS;
      await rest();
    }
    return { parts, left };
  }
};

const MORE_TEXTS = 'Text of some length; whether it holds messages shows when it is examined.';

/** The beginning of a log, where it is long. */
function seenLog(text: TreeFile, zone: string): GlancedPart | null {
  const { file } = text;
  const source = openNow(file);
  if (!source) return null;
  const bytes = source.read(0, Math.min(source.size, MOST_TEXT));
  // The last line that was cut off would be read as one that ends there.
  const end = isLong(text) ? bytes.lastIndexOf(0x0a) + 1 || bytes.length : bytes.length;
  const log = readLog(bytes.subarray(0, end), file.path, zone);
  if (!log || log.isShort) return null;
  const moments = log.entries.map(({ at }) => at);
  return textPart(file.path, 'text log', moments, isLong(text));
}
