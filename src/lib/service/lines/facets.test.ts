import { Naming } from '$core/case';
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { ZonedTime } from '../../../../core/shown';
import {
  emptyDevice,
  emptyFindings,
  type Attachment,
  type Call,
  type FileRecord,
  type Findings,
  type Message
} from '../../../../core/records';
import { messageRecord } from '../../../../core/tests/records';
import type { SourceRecord } from '../../storage/schema';
import { Facets } from './facets';
import { findingsOf, keptCase, shownIds } from '../tests/kept-case';
import type { KeptIndex } from './store-lines';

const AT = Date.UTC(2026, 3, 10, 7);
const proofs: Message['proofs'] = [];

function message(store: string, n: number, extra: Partial<Message> = {}): Message {
  const place = { id: `${store}/m/${n}`, store, thread: `${store}/t/p`, sender: 'p:+1' };
  return messageRecord({ ...place, sentAt: AT + n * 1000, body: `line ${n}`, ...extra });
}

function call(store: string, n: number, extra: Partial<Call> = {}): Call {
  const facts = {
    person: 'p:+1',
    direction: 'incoming',
    seconds: 5,
    certainty: 99,
    proofs
  } as const;
  return { ...facts, id: `${store}/c/${n}`, store, at: AT + n, state: 'live', ...extra };
}

function chunk(
  store: string,
  messages: Message[],
  calls: Call[],
  attachments: Attachment[] = []
): Findings {
  return {
    ...emptyFindings(),
    stores: [{ ...findingsOf(store, {}).stores[0]! }],
    threads: [{ id: `${store}/t/p`, store, title: null, participants: ['p:+1'], group: false }],
    people: [{ id: 'p:+1', name: null, addresses: ['+1'], owner: false }],
    messages,
    attachments,
    calls,
    contacts: [
      {
        id: `${store}/k/1`,
        store,
        person: 'p:+1',
        name: 'Tilda',
        phones: ['+1 555 010 0001'],
        emails: [],
        organisation: null,
        note: null,
        state: 'live',
        certainty: 100,
        proofs
      }
    ]
  };
}

function file(path: string, extra: Partial<FileRecord> = {}): FileRecord {
  return {
    id: `s1/f/${path}`,
    source: 's1',
    path,
    name: path.split('/').pop()!,
    mime: null,
    bytes: 4,
    sha256: path,
    modifiedAt: null,
    createdAt: null,
    deletedAt: null,
    state: 'live',
    proofs: [],
    ...extra
  };
}

function attachment(id: string, extra: Partial<Attachment>): Attachment {
  const nothing = {
    name: null,
    mime: null,
    bytes: null,
    sha256: null,
    path: null,
    width: null,
    height: null,
    seconds: null,
    thumbnail: null
  };
  return { ...nothing, id: `s1.1/m/1/${id}`, message: 's1.1/m/1', state: 'live', ...extra };
}

async function facetsOf(
  all: Findings[],
  files: FileRecord[]
): Promise<{ facets: Facets; index: KeptIndex }> {
  const { index } = (await keptCase(all)).keeper;
  const naming = new Naming(index.people, {}, '');
  const source = {
    id: 's1',
    name: 'Phone',
    files: [],
    stores: [],
    device: emptyDevice()
  } as unknown as SourceRecord;
  const attachments = (await index.attachments()).values();
  const time = new ZonedTime('Europe/Oslo');
  return { facets: new Facets(index, naming, time, [source], files, attachments), index };
}

test('the file of an attachment without bytes is looked for by name, size and type', async () => {
  const lost = attachment('a1', { name: 'hull.jpg', path: 'media/x/hull.jpg', bytes: 900 });
  const store = chunk('s1.1', [message('s1.1', 1, { attachments: [lost.id] })], [], [lost]);
  const { facets, index } = await facetsOf(
    [store],
    [
      file('other.jpg', { sha256: 'a', bytes: 900 }),
      file('old/HULL.JPG', { sha256: 'b' }),
      file('notes.txt', { sha256: 'c' }),
      file('SHA256SUMS', { sha256: 'd' })
    ]
  );
  const paths = (query: string): string[] => facets.candidates(lost, query).map(({ path }) => path);
  assert.deepEqual(paths(''), ['old/HULL.JPG', 'other.jpg', 'notes.txt']);
  assert.deepEqual(paths('note'), ['notes.txt']);

  index.joinFiles({
    [lost.id]: { source: 's2', path: 'old/HULL.JPG', sha256: 'b', mime: 'image/jpeg', bytes: 7 }
  });
  const joined = (await index.attachments()).get(lost.id)!;
  assert.equal(joined.attachment.sha256, 'b');
  assert.equal(joined.attachment.byHand, 's2');
  // What the store says of it is kept beside it.
  assert.equal(joined.own.path, 'media/x/hull.jpg');
  index.joinFiles(undefined);
  assert.equal((await index.attachments()).get(lost.id)!.attachment.sha256, null);
});

test('a file that messages carry has their state, and is found wherever its bytes lie', async () => {
  const carried = (n: number, path: string, sha256: string): Attachment =>
    attachment('', {
      id: `s1.1/m/${n}/a1`,
      message: `s1.1/m/${n}`,
      name: path,
      mime: 'image/jpeg',
      sha256,
      path
    });
  const gone = { state: 'recovered' } as const;
  const store = chunk(
    's1.1',
    [
      message('s1.1', 1, { ...gone, attachments: ['s1.1/m/1/a1'] }),
      message('s1.1', 2, { ...gone, attachments: ['s1.1/m/2/a1'] }),
      message('s1.1', 3, { attachments: ['s1.1/m/3/a1'] })
    ],
    [],
    [carried(1, 'a.jpg', 'one'), carried(2, 'b.jpg', 'two'), carried(3, 'c.jpg', 'two')]
  );
  const old = file('old/b.jpg', { sha256: 'two', source: 's2', mime: 'image/jpeg' });
  const { facets } = await facetsOf(
    [store],
    [file('a.jpg', { sha256: 'one', mime: 'image/jpeg' }), old]
  );
  const states = Object.fromEntries(facets.seen().map(({ sha256, state }) => [sha256, state]));
  assert.deepEqual(states, { one: 'recovered', two: 'live' });
  assert.deepEqual(facets.placesOf('s1', 'b.jpg'), [
    { sourceId: 's1', path: 'b.jpg' },
    { sourceId: 's2', path: 'old/b.jpg' },
    { sourceId: 's1', path: 'c.jpg' }
  ]);
});

test('copies of a store give each message and call once; what one holds live stands first', async () => {
  const chunks = [
    chunk(
      's1.1',
      [message('s1.1', 1, { state: 'recovered' }), message('s1.1', 2)],
      [call('s1.1', 1, { state: 'recovered' })]
    ),
    chunk(
      's1.2',
      [message('s1.2', 1), message('s1.2', 2), message('s1.2', 3)],
      [call('s1.2', 1), call('s1.2', 2)]
    )
  ];
  const { facets, index } = await facetsOf(chunks, []);
  const lines: unknown[] = [];
  for (const id of await shownIds(index, 'p:+1')) {
    const place = (await index.locateOne(id))!;
    lines.push([id, (await index.held(place)).message.state, index.alsoIn(place)]);
  }
  assert.deepEqual(lines, [
    ['s1.2/m/1', 'live', ['s1.1']],
    ['s1.1/m/2', 'live', ['s1.2']],
    ['s1.2/m/3', 'live', []]
  ]);
  assert.deepEqual(facets.counts().messages, { live: 3, notLive: 0 });
  assert.deepEqual(facets.counts().calls, { live: 2, notLive: 0 });
  assert.deepEqual(
    facets.calls().map(({ time, direction, source }) => [time, direction, source]),
    [
      ['09:00:00', 'incoming', 'Phone'],
      ['09:00:00', 'incoming', 'Phone']
    ]
  );
});

test('the same words twice in one store stay two lines', async () => {
  const twice = [message('s1.1', 1), message('s1.1', 1, { id: 's1.1/m/1b' })];
  const { index } = await facetsOf([chunk('s1.1', twice, [])], []);
  assert.equal((await shownIds(index, 'p:+1')).length, 2);
});

test('files are one row for the same bytes; missing attachments are named, with their small picture', async () => {
  const files = [
    file('DCIM/a.jpg', { mime: 'image/jpeg' }),
    file('copy/a.jpg', { mime: 'image/jpeg', sha256: 'DCIM/a.jpg' }),
    file('notes/b.pdf', { mime: 'application/pdf' }),
    file('x.bin')
  ];
  const attachments = [
    attachment('a1', {
      name: 'a.jpg',
      path: 'DCIM/a.jpg',
      sha256: 'DCIM/a.jpg',
      mime: 'image/jpeg'
    }),
    attachment('a2', { name: 'lost.jpg', mime: 'image/jpeg', thumbnail: Uint8Array.of(1) })
  ];
  const sent = message('s1.1', 1, { attachments: attachments.map(({ id }) => id) });
  const { facets } = await facetsOf([chunk('s1.1', [sent], [], attachments)], files);
  const media = facets.files('media', '', 0, 10);
  assert.deepEqual(
    media.rows.map(({ name, copies, missing, day, thumbnail }) => [
      name,
      copies,
      missing,
      day,
      thumbnail !== null
    ]),
    [
      ['a.jpg', 1, false, '2026-04-10', false],
      ['lost.jpg', 0, true, '2026-04-10', true]
    ]
  );
  assert.deepEqual(
    facets.files('documents', '', 0, 10).rows.map(({ name }) => name),
    ['b.pdf']
  );
  assert.equal(facets.files('files', 'NOTES', 0, 10).total, 1);
  assert.equal(facets.contacts()[0]!.name, 'Tilda');
});
