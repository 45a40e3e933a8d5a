import { encode as encodePng } from 'fast-png';
import jpeg from 'jpeg-js';
import { createHash } from 'node:crypto';
import { OWNER, type Attachment, type Findings, type Message, type Source } from '../records';
import { emptyDevice, emptyFindings, emptyInside } from '../records';
import { seeded } from './telephony';

/** Texts that formats and fonts get wrong most easily. */
export const HARD_TEXTS: [what: string, text: string][] = [
  ['Arabic', 'سآتي غداً عند الساعة ١٠ إلى الميناء القديم'],
  ['Hebrew with a number', 'נפגשים בשעה 10:30 ליד המזח, בסדר?'],
  ['Devanagari', 'कल सुबह नाव तैयार रहेगी, क्या आप आएँगे?'],
  ['Thai', 'พรุ่งนี้เรือจะออกเก้าโมงเช้า'],
  ['Japanese', '明日の朝、港で会いましょう。カメラを持って来てね'],
  ['Chinese', '明天早上在码头见面，请带上文件。'],
  ['Korean', '내일 아침에 항구에서 만나요'],
  ['Greek and Cyrillic', 'Καλημέρα από το λιμάνι. Завтра в десять у причала'],
  ['emoji of families, tones, flags, keycaps', 'all here 👨‍👩‍👧‍👦 👍🏽 🇳🇴 🏴󠁧󠁢󠁳󠁣󠁴󠁿 1️⃣ ❤️‍🔥 🧑🏾‍🚀'],
  ['mixed directions', 'the word שלום stands in the middle, and 123 after it'],
  ['a long token', `https://quay.example/${'abcdefghij'.repeat(30)}`],
  ['a formula', '=HYPERLINK("https://bad.example","press")'],
  ['a formula behind a blank', ' +1+cmd|"/c calc"!A1'],
  ['markup', '<script>alert(1)</script><img src=x onerror=alert(2)>'],
  ['markup of typesetting', '#import "x.typ": * $x$ \\ *bold* _em_ `raw` @ref <label>'],
  ['controls', 'bell\u0007 escape\u001b[31mred null\u0000 end'],
  ['direction overrides', 'invoice\u202efdp.exe\u202c and \u2066isolate\u2069'],
  ['half of a character', 'broken \ud83d here'],
  ['lines of a record', 'first\n2  2026-01-01 00:00:00 UTC+0  owner\n    | forged'],
  ['mail lines', 'From nobody\n>From somebody\n.\n'],
  ['quotes, commas, semicolons', '"a", b; c\\d \'e\''],
  ['combining marks', `zalgo z${'\u0301\u0316'.repeat(40)} end`],
  ['a letter that few fonts have', 'cuneiform \u{12000} and Egyptian \u{13000}'],
  ['an empty line at the end', 'above\n\n'],
  ['a tab', 'name\tvalue']
];

const WORDS =
  'the harbour tide boat quay seven yes maybe shed key bring tea lamp rope dawn over there please thanks wind north again later soon who what deposit yard ferry'.split(
    ' '
  );

/** What a made case holds beside its messages. */
export interface MadeCase {
  sources: Source[];
  findings: Findings;
  /** Files by SHA-256. */
  files: Map<string, Uint8Array>;
}

export interface CasePlan {
  seed?: number;
  messages?: number;
  /** Every n-th message has a picture; 0 for none. */
  pictureEvery?: number;
  /** Every n-th message has an emoji; 0 for none. */
  emojiEvery?: number;
  hard?: boolean;
}

const PEOPLE = [
  ['p:+4790000111', 'Mira Holt', '+4790000111'],
  ['p:+4790000222', 'Jon Aske', '+4790000222'],
  ['p:petra@quay.example', 'Petra Vann', 'petra@quay.example'],
  ['p:+4790000333', 'ليلى حداد', '+4790000333']
] as const;

/** A case with conversations of two and of three, hard texts, pictures, gaps, calls and contacts. */
export function madeCase({
  seed = 1,
  messages = 200,
  pictureEvery = 25,
  emojiEvery = 9,
  hard = true
}: CasePlan = {}): MadeCase {
  const random = seeded(seed);
  const findings = emptyFindings();
  const files = new Map<string, Uint8Array>();
  findings.people = [
    { id: OWNER, name: 'Ida Fosse', addresses: ['+4790000999'], owner: true },
    ...PEOPLE.map(([id, name, address]) => ({ id, name, addresses: [address], owner: false }))
  ];
  findings.stores.push({
    id: 's1.1',
    source: 's1',
    path: 'chat.db',
    profile: 'worked-out:messages',
    fit: 95,
    counts: { live: 0, held: 0, recovered: 0, fragment: 0, earlier: 0 },
    limits: [],
    span: null
  });
  const rooms = [[0], [1], [2], [3], [0, 1, 2]];
  rooms.forEach((members, r) =>
    findings.threads.push({
      id: `s1.1/t/${r}`,
      store: 's1.1',
      title: members.length > 1 ? 'Rowing club' : null,
      participants: members.map((m) => PEOPLE[m]![0]),
      group: members.length > 1
    })
  );
  let at = Date.UTC(2026, 2, 12, 7);
  const texts = hard ? HARD_TEXTS.map(([, text]) => text) : [];
  for (let i = 0; i < messages; i++) {
    at += Math.floor(random() * 3_600_000) + 1000;
    const r = Math.floor(random() * rooms.length);
    const members = rooms[r]!;
    const isOwn = random() < 0.45;
    const who = members[Math.floor(random() * members.length)]!;
    const words = Array.from(
      { length: 1 + Math.floor(random() * 20) },
      () => WORDS[Math.floor(random() * WORDS.length)]!
    );
    const emoji = emojiEvery > 0 && i % emojiEvery === 4 ? ' 🛶' : '';
    const state = i % 10 === 7 ? 'recovered' : i % 40 === 13 ? 'fragment' : 'live';
    const id = `s1.1/m/${i}`;
    const cut = state === 'fragment' ? ' \ufffc' : '';
    const message: Message = {
      id,
      store: 's1.1',
      thread: `s1.1/t/${r}`,
      sender: isOwn ? OWNER : PEOPLE[who]![0],
      direction: isOwn ? 'outgoing' : 'incoming',
      sentAt: at,
      deliveredAt: null,
      readAt: null,
      body: texts[i] ?? `${words.join(' ')} ${i}${emoji}${cut}`,
      subject: null,
      state,
      purgeAt: null,
      replaces: null,
      certainty: state === 'live' ? 100 : 97,
      reasons: [],
      proofs: [
        {
          source: 's1',
          path: 'chat.db',
          page: 3 + (i % 9),
          offset: 4096 + i * 64,
          length: 60,
          method: state === 'live' ? 'table' : 'free-block'
        }
      ],
      attachments: [],
      replyTo: i % 17 === 5 && i > 20 ? `s1.1/m/${i - 1}` : null,
      reactions: i % 23 === 6 ? [{ person: OWNER, text: '👍', at: at + 1000 }] : [],
      location: null
    };
    if (pictureEvery > 0 && i % pictureEvery === 3) {
      const attachment = picture(`${id}/a1`, id, i, files);
      findings.attachments.push(attachment);
      message.attachments.push(attachment.id);
    }
    findings.messages.push(message);
  }
  addOthers(findings, at);
  return { sources: [sourceOf()], findings, files };
}

function addOthers(findings: Findings, at: number): void {
  const [first, second] = findings.messages;
  if (first && second)
    findings.gaps.push({
      store: 's1.1',
      thread: first.thread,
      count: 3,
      after: first.id,
      before: null,
      from: first.sentAt,
      to: second.sentAt,
      reason: 'row numbers are missing'
    });
  findings.calls.push(
    {
      id: 's1.1/c/1',
      store: 's1.1',
      person: PEOPLE[0][0],
      direction: 'missed',
      at: at - 5_000_000,
      seconds: 0,
      state: 'live',
      certainty: 100,
      proofs: []
    },
    {
      id: 's1.1/c/2',
      store: 's1.1',
      person: PEOPLE[1][0],
      direction: 'outgoing',
      at: at - 4_000_000,
      seconds: 754,
      state: 'recovered',
      certainty: 95,
      proofs: []
    }
  );
  findings.contacts.push({
    id: 's1.1/k/1',
    store: 's1.1',
    person: PEOPLE[0][0],
    name: 'Holt, Mira; "the yard"',
    phones: ['+4790000111'],
    emails: ['mira@quay.example'],
    organisation: 'Yard & Sons',
    note: 'met at\nthe quay',
    state: 'live',
    certainty: 100,
    proofs: []
  });
}

function sourceOf(): Source {
  return {
    id: 's1',
    name: 'handset copy',
    kind: 'folder',
    bytes: 1_234_567,
    sha256: 'ab'.repeat(32),
    parts: [],
    depth: 'freed',
    device: emptyDevice(),
    notes: [],
    inside: emptyInside()
  };
}

function picture(
  id: string,
  message: string,
  i: number,
  files: Map<string, Uint8Array>
): Attachment {
  const isPng = i % 2 === 0;
  const bytes = isPng ? pngOf(160, 120, i) : jpegOf(240, 160, i);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  files.set(sha256, bytes);
  return {
    id,
    message,
    name: `picture ${i}.${isPng ? 'png' : 'jpg'}`,
    mime: isPng ? 'image/png' : 'image/jpeg',
    bytes: bytes.length,
    sha256,
    state: 'live',
    path: `media/${i}`,
    width: null,
    height: null,
    seconds: null,
    thumbnail: null
  };
}

function colours(width: number, height: number, seed: number): Uint8Array {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      data.set(
        [(x * 2 + seed * 37) & 255, (y * 2 + seed * 11) & 255, (x + y) & 255, 255],
        (y * width + x) * 4
      );
  return data;
}

export function pngOf(width: number, height: number, seed: number): Uint8Array {
  return encodePng({ width, height, channels: 4, depth: 8, data: colours(width, height, seed) });
}

export function jpegOf(width: number, height: number, seed: number): Uint8Array {
  const image = { width, height, data: colours(width, height, seed) };
  return Uint8Array.from(jpeg.encode(image, 90).data);
}
