import {
  cardFileOf,
  elementaryFile,
  filesInImage,
  filesInText,
  isCard,
  MOST_DUMP,
  readCard,
  type CardMessage,
  type CardPlace,
  type CardReading,
  type FoundFile
} from '../../formats/sim';
import { MemorySource } from '../../host';
import type { TreeFile } from '../../formats';
import { LOST_MARK, type Device, type GlancedPart } from '../../records';
import type { StoreCall, StoreContact, StoreMessage, StoreReading } from '../../profiles';
import { openNow } from '../attachments';
import type { StoreReader } from './reader';

/** A card found in a source. */
interface FoundCard {
  path: string;
  reading: CardReading;
  files: TreeFile[];
}

/** A folder of elementary files has few; where there are many files a card would be named. */
const MOST_UNNAMED = 400;
/** A binary image of a card is not larger than its memory. */
const MOST_IMAGE = 1 << 20;

/** Looks for a card: elementary files by name and content, else one dump of them. */
function findCard(files: TreeFile[]): FoundCard | null {
  const small = files.filter(
    ({ file, mark }) => isSmall(file.size) && (mark === 'other' || mark === 'text')
  );
  const named = small.filter(({ file }) => cardFileOf(file.path) !== null);
  const candidates = named.length > 0 || small.length > MOST_UNNAMED ? named : small;
  const found = candidates.flatMap((file) => filesOf(file, elementary));
  const used =
    found.length > 0
      ? found
      : small.length <= 3
        ? small.flatMap((file) => filesOf(file, dumped))
        : [];
  if (used.length === 0) return null;
  const reading = readCard(used.map(({ found }) => found));
  // Names alone prove nothing: without messages or an identity it is a folder of something else.
  if (!isCard(reading)) return null;
  const sms = used.find(({ found }) => found.file === 'sms') ?? used[0]!;
  return { path: sms.from.file.path, reading, files: used.map(({ from }) => from) };
}

function isSmall(size: number | null): boolean {
  return size !== null && size > 0 && size <= MOST_DUMP;
}

type Finder = (file: TreeFile, path: string, bytes: Uint8Array) => FoundFile[];

function filesOf(from: TreeFile, find: Finder): { from: TreeFile; found: FoundFile }[] {
  const source = openNow(from.file);
  if (!source) return [];
  const bytes = source.read(0, source.size);
  return find(from, from.file.path, bytes).map((found) => ({ from, found }));
}

function elementary(_from: TreeFile, path: string, bytes: Uint8Array): FoundFile[] {
  const found = elementaryFile(path, new MemorySource(path, bytes));
  return found ? [found] : [];
}

function dumped({ mark }: TreeFile, path: string, bytes: Uint8Array): FoundFile[] {
  if (mark === 'text') return filesInText(path, bytes);
  return bytes.length <= MOST_IMAGE ? filesInImage(path, bytes) : [];
}

/** What a card says of itself, as facts of a device. */
function cardDevice({ iccid, ownNumbers }: CardReading): Partial<Device> {
  return { serial: iccid, phoneNumber: ownNumbers[0]?.number ?? null };
}

/** A card's contents as a store's reading, to be joined with the others. */
function cardReading(card: CardReading): StoreReading {
  return {
    messages: card.messages.map(messageOf),
    calls: card.dialled.map(({ number, name, place }, i): StoreCall => {
      return {
        key: `EF_LND/${i + 1}`,
        address: number || null,
        name: name || null,
        direction: 'outgoing',
        at: null,
        seconds: null,
        state: 'live',
        certainty: 100,
        proofs: [proofOf(place)]
      };
    }),
    contacts: card.contacts.map(({ number, name, place }, i): StoreContact => ({
      key: `EF_ADN/${i + 1}`,
      name: name || null,
      phones: number === '' ? [] : [number],
      emails: [],
      organisation: null,
      note: null,
      state: 'live',
      certainty: 100,
      proofs: [proofOf(place)]
    })),
    names: new Map(),
    numbered: []
  };
}

function proofOf({ path, offset, length }: CardPlace): StoreMessage['proofs'][number] {
  return { path, page: null, offset, length, method: 'card' };
}

function messageOf(message: CardMessage): StoreMessage {
  const { direction, address, sentAt, text, deleted, places } = message;
  const whole = !deleted || message.missing.length === 0;
  return {
    key: `EF_SMS/@${places[0]!.offset.toString(16)}`,
    table: 'EF_SMS',
    rowid: null,
    unique: null,
    direction: message.report ? 'system' : direction,
    sender: direction === 'incoming' ? address : null,
    sentAt,
    deliveredAt: null,
    readAt: null,
    body: text,
    subject: null,
    state: deleted ? (whole ? 'recovered' : 'fragment') : 'live',
    purgeAt: null,
    certainty: certaintyOf(message),
    reasons: reasonsOf(message),
    proofs: places.map(proofOf),
    thread: { key: address, participants: [address], peer: address, title: null, counted: null },
    attachments: [],
    replyTo: null,
    reactions: [],
    location: null,
    earlierOf: null
  };
}

function certaintyOf({ deleted, missing, unsure }: CardMessage): number {
  if (unsure) return 60;
  if (!deleted) return 100;
  return missing.length > 0 ? 80 : 97;
}

function reasonsOf({ deleted, missing, parts, unsure, text }: CardMessage): string[] {
  const reasons = [
    deleted
      ? 'record of the card marked free, its contents whole'
      : 'record of the card marked as used'
  ];
  if (parts > 1) reasons.push(`${parts - missing.length} of ${parts} parts are on the card`);
  if (text.includes(LOST_MARK) && missing.length > 0)
    reasons.push(`part ${missing.join(', ')} is missing`);
  if (unsure) reasons.push('its national alphabet is not known here');
  return reasons;
}

const CARD_LIMITS = [
  'All records of the card were read, including free ones. An overwritten record keeps nothing of its old content.'
];

export const CARD: StoreReader = {
  id: 'card',

  async *read(exam) {
    const card = findCard(exam.tree.files);
    if (!card) return;
    exam.isA('card');
    if (exam.source.kind === 'folder') exam.source.kind = 'card';
    exam.isFrom(cardDevice(card.reading));
    for (const file of card.files) exam.took(file);
    const facts = { path: card.path, profile: 'card', fit: 100, limits: CARD_LIMITS };
    yield* exam.give(facts, cardReading(card.reading));
  },

  peek({ tree }) {
    const card = findCard(tree.files);
    if (!card) return Promise.resolve({ parts: [], left: null });
    const { messages, contacts } = card.reading;
    const isText = messages.length > 0;
    const part: GlancedPart = {
      ...{ path: card.path, title: 'card', beside: [], isMore: false, from: null, to: null },
      what: isText ? 'messages' : 'contacts',
      count: isText ? messages.length : contacts.length
    };
    return Promise.resolve({ parts: [part], left: null });
  }
};
