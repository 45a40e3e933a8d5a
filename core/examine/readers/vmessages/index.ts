/** Text messages that were saved as vMessage objects, one or many in a file; the files of one folder are one store. */
import { linesOf } from '../../../formats/textlog';
import { baseName, type TreeFile } from '../../../formats';
import type { GlancedPart } from '../../../records';
import type { StoreMessage, StoreReading, StoreThread } from '../../../profiles';
import { openNow } from '../../attachments';
import {
  LOG_LIMIT,
  MOST_LOOKED,
  textPart,
  textsIn,
  zoneSentence,
  type StoreReader
} from '../reader';
import { isVMessage, readVMessages, type VMessage, type VParty } from './parse';

/** Bytes that are read to see what a text is, and of which it is read whole. */
const HEAD = 512;
const MOST_BYTES = 96 << 20;

/** The objects of one folder. */
interface Group {
  path: string;
  files: TreeFile[];
  found: { path: string; message: VMessage }[];
}

export const VMESSAGES: StoreReader = {
  id: 'vmessages',

  async *read(exam) {
    const { zone, want } = exam.request;
    if (!want.kinds.has('messages')) return;
    const groups = new Map<string, Group>();
    for (const file of exam.texts()) {
      if (exam.pace.due) await exam.pace.rest();
      try {
        take(groups, file, zone);
      } catch (error) {
        yield exam.failed(error, file.file.path);
      }
    }
    for (const group of groups.values()) {
      exam.isA('log');
      for (const file of group.files) exam.took(file);
      const isZoneless = group.found.some(({ message }) => message.isZoneless);
      const limits = [LOG_LIMIT, ...(isZoneless ? [zoneSentence(zone)] : [])];
      yield* exam.give(
        { path: group.path, profile: 'vmessages', fit: 100, limits },
        reading(group)
      );
    }
  },

  async peek({ tree, zone, rest }) {
    const parts: GlancedPart[] = [];
    const groups = new Map<string, Group>();
    for (const file of textsIn(tree).slice(0, MOST_LOOKED)) {
      take(groups, file, zone);
      await rest();
    }
    for (const { path, found } of groups.values()) {
      const moments = found.map(({ message }) => message.sentAt);
      parts.push(textPart(path, 'saved text messages', moments, false));
    }
    return { parts, left: null };
  }
};

/** Puts the objects of a file to those of its folder; a file that holds none is left to others. */
function take(groups: Map<string, Group>, file: TreeFile, zone: string): void {
  const { path, size } = file.file;
  if (!isVMessage(linesOf(file.file.head().subarray(0, HEAD))) || (size ?? 0) > MOST_BYTES) return;
  const source = openNow(file.file);
  if (!source) return;
  const lines = linesOf(source.read(0, source.size));
  const messages = [...readVMessages(lines, zone)];
  const folder = path.slice(0, path.length - baseName(path).length);
  const group = groups.get(folder) ?? { path, files: [], found: [] };
  group.files.push(file);
  for (const message of messages) group.found.push({ path, message });
  groups.set(folder, group);
}

function reading({ found }: Group): StoreReading {
  const names = new Map<string, string>();
  const threads = new Map<string, StoreThread>();
  const messages = found.map(({ path, message }) => {
    for (const { address, name } of [message.from ?? NOBODY, ...message.to])
      if (address !== null && name !== null) names.set(address, name);
    return messageOf(path, message, threads);
  });
  return { messages, calls: [], contacts: [], names, numbered: [] };
}

const NOBODY: VParty = { name: null, address: null };

/** By what somebody is told: the address, else the name. */
function called({ address, name }: VParty): string | null {
  return address ?? name;
}

function messageOf(
  path: string,
  { isOutgoing, from, to, sentAt, text, offset, length }: VMessage,
  threads: Map<string, StoreThread>
): StoreMessage {
  const sender = called(from ?? NOBODY);
  const recipients = to.flatMap((one) => called(one) ?? []);
  // Where no box is named, whoever is named alone is the other party.
  const isOwn = isOutgoing ?? (sender === null && recipients.length > 0);
  const others = isOwn ? recipients : sender === null ? [] : [sender];
  const participants = others.length > 0 ? [...new Set(others)] : ['unknown'];
  const key = participants.join(',');
  let thread = threads.get(key);
  if (!thread) {
    const peer = participants.length === 1 ? participants[0]! : null;
    threads.set(key, (thread = { key, participants, peer, title: null, counted: null }));
  }
  return {
    ...{ key: `${path}/@${offset.toString(16)}`, table: path, rowid: null },
    unique: `${path}@${offset}`,
    direction: isOwn ? 'outgoing' : isOutgoing === null && sender === null ? 'unknown' : 'incoming',
    sender: isOwn ? null : sender,
    ...{ sentAt, deliveredAt: null, readAt: null, body: text, subject: null },
    ...{ state: 'live', purgeAt: null, certainty: 100 },
    reasons: [`object saved in ${baseName(path)}`],
    proofs: [{ path, page: null, offset, length, method: 'text' }],
    thread,
    ...{ attachments: [], replyTo: null, reactions: [], location: null, earlierOf: null }
  };
}
