import { readLog, type ChatLog, type LogEntry } from '../logs';
import { baseName, folderOf, type TreeFile } from '../packages';
import type { StoreAttachment, StoreMessage, StoreReading } from '../stores';
import { openNow } from './attachments';

/** Logs of one folder, which one program wrote. */
export interface LogGroup {
  path: string;
  logs: ChatLog[];
  files: TreeFile[];
}

const MOST_BYTES = 256 << 20;

/** Reads every text that is a chat log; those of one folder belong together. Yields what failed, and between files. */
export function* findLogs(
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
    const folder = folderOf(log.path);
    const group = groups.get(folder) ?? { path: log.path, logs: [], files: [] };
    group.logs.push(log);
    group.files.push(file);
    groups.set(folder, group);
  }
  return [...groups.values()];
}

/** Words by which programs call the owner. */
const OWN_WORDS = new Set(
  'you me myself du ich yo moi je ja ik io eu jag jeg minä sinä vous toi tú você sen ben вы я ты 你 我 あなた 自分 나'.split(
    ' '
  )
);

/** What the logs of a folder say, as a store's reading. `has` tells whether the source holds a file of a name. */
export function logReading(group: LogGroup, has: (name: string) => boolean): StoreReading {
  const senders = group.logs.map((log) => sendersOf(log));
  const owner = ownerOf(group.logs, senders);
  const messages = group.logs.flatMap((log, i) =>
    log.entries.map((entry) => messageOf(log, entry, senders[i]!, owner, has))
  );
  return { messages, calls: [], contacts: [], names: new Map(), numbered: [] };
}

export function logLimits({ logs }: LogGroup): string[] {
  const limits = [
    'A log of text holds what it holds: nothing can be deleted from it and still be in it.'
  ];
  const [order] = logs.flatMap(({ order }) => order ?? []);
  if (order) limits.push(`In its dates ${order}, as the whole file shows.`);
  return limits;
}

function sendersOf(log: ChatLog): string[] {
  return [...new Set(log.entries.flatMap(({ sender }) => sender ?? []))];
}

/** The owner of the device that wrote the logs; null when nothing tells. */
function ownerOf(logs: ChatLog[], senders: string[][]): string | null {
  const all = [...new Set(senders.flat())];
  const byWord = all.find((name) => OWN_WORDS.has(name.toLowerCase()));
  if (byWord !== undefined) return byWord;
  if (logs.length > 2 && all.length > 2) {
    const common = all.filter((name) => senders.every((list) => list.includes(name)));
    if (common.length === 1) return common[0]!;
  }
  for (const [i, log] of logs.entries()) {
    const [a, b, c] = senders[i]!;
    if (a === undefined || b === undefined || c !== undefined) continue;
    // The heading names the other party surest, then the file, then its folders.
    for (const told of [log.title ?? '', baseName(log.path), log.path]) {
      const has = (name: string): boolean => told.toLowerCase().includes(name.toLowerCase());
      if (has(a) !== has(b)) return has(a) ? b : a;
    }
  }
  return null;
}

function messageOf(
  log: ChatLog,
  { at, sender, text, offset, length }: LogEntry,
  senders: string[],
  owner: string | null,
  has: (name: string) => boolean
): StoreMessage {
  const others = senders.filter((name) => name !== owner);
  const own = owner !== null && sender === owner;
  return {
    key: `${log.path}/@${offset.toString(16)}`,
    table: log.path,
    rowid: null,
    unique: `${log.path}@${offset}`,
    direction:
      sender === null ? 'system' : own ? 'outgoing' : owner === null ? 'unknown' : 'incoming',
    sender: own ? null : sender,
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
    thread: {
      key: others.length > 1 || owner === null ? log.path : (others[0] ?? log.path),
      participants: others,
      peer: null,
      title: others.length > 1 ? (log.title ?? baseName(log.path).replace(/\.\w{2,5}$/, '')) : null,
      counted: null
    },
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

function attachmentsOf(text: string, has: (name: string) => boolean): StoreAttachment[] {
  const first = text.split('\n', 1)[0]!;
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
