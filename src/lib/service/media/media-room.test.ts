import { Naming } from '$core/case';
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MemorySource } from '$core/host';
import type { Attachment, FileRecord, Findings, Message } from '$core/records';
import { ZonedTime } from '$core/shown';
import { messageRecord } from '../../../../core/tests/records';
import { ALL_MEDIA } from '../../stations/read/media-filter';
import type { SourceRecord } from '../../storage/schema';
import { Facets } from '../lines/facets';
import type { MediaFilter } from '../api/media-api';
import { MediaRoom } from './media-room';
import { NotesRoom } from '../notes/notes-room';
import { SummaryRoom } from '../case/summary-room';
import { findingsOf, keptCase, SOMEONE } from '../tests/kept-case';

/** A Monday, at ten in Oslo. */
const AT = Date.UTC(2026, 2, 2, 9);

function message(n: number, told: Partial<Message> = {}): Message {
  const place = { id: `s1.1/m/${n}`, store: 's1.1', thread: 's1.1/t/x', sender: SOMEONE };
  return messageRecord({ ...place, sentAt: AT + n * 3_600_000, body: `line ${n}`, ...told });
}

function attachment(n: number, path: string, told: Partial<Attachment> = {}): Attachment {
  return {
    id: `s1.1/m/${n}/a1`,
    message: `s1.1/m/${n}`,
    name: path,
    mime: 'image/png',
    bytes: 10,
    sha256: `sum of ${path}`,
    path,
    width: null,
    height: null,
    seconds: null,
    state: 'live',
    thumbnail: null,
    ...told
  };
}

function file(path: string, told: Partial<FileRecord> = {}): FileRecord {
  return {
    id: `s1/f/${path}`,
    source: 's1',
    path,
    name: path,
    mime: 'image/png',
    bytes: 10,
    sha256: `sum of ${path}`,
    modifiedAt: null,
    createdAt: AT + 86_400_000,
    deletedAt: null,
    state: 'live',
    proofs: [],
    ...told
  };
}

const FINDINGS: Findings = findingsOf('s1.1', {
  messages: [
    message(1, { attachments: ['s1.1/m/1/a1'] }),
    message(2, { attachments: ['s1.1/m/2/a1'], location: { lat: 59.9, lon: 10.7, label: 'quay' } }),
    message(3, { attachments: ['s1.1/m/3/a1'], state: 'recovered' }),
    message(40, { direction: 'outgoing', sender: 'owner' })
  ],
  attachments: [
    attachment(1, 'boat.png'),
    attachment(2, 'boat copy.png', { sha256: 'sum of boat.png' }),
    attachment(3, 'gone.jpg', { sha256: null, mime: 'image/jpeg', state: 'recovered' })
  ]
});
const FILES = [
  file('boat.png'),
  file('boat copy.png', { sha256: 'sum of boat.png' }),
  file('stray.mp4', { mime: 'video/mp4', bytes: 5_000_000 }),
  file('words.txt', { mime: 'text/plain' })
];

async function rooms(): Promise<{
  media: MediaRoom;
  summary: SummaryRoom;
  notes: NotesRoom;
  facets: Facets;
}> {
  const { keeper, record } = await keptCase([FINDINGS]);
  const { index } = keeper;
  const naming = new Naming(index.people, { [SOMEONE]: 'Ragna' }, 'Eirin');
  const time = new ZonedTime('Europe/Oslo');
  const source = {
    id: 's1',
    name: 'Phone',
    files: [],
    stores: FINDINGS.stores,
    pass: { state: 'none' }
  } as unknown as SourceRecord;
  const attachments = (await index.attachments()).values();
  const notes = new NotesRoom({
    caseId: () => record.id,
    lines: async () => [],
    chosenFiles: () => [file('stray.mp4').id],
    changed: () => undefined
  });
  const facets = new Facets(index, naming, time, [source], FILES, attachments, notes);
  const media = new MediaRoom({
    index: () => index,
    naming: () => naming,
    time: () => time,
    facets: () => Promise.resolve(facets),
    notes: () => notes,
    file: async (_, path) =>
      FILES.some((one) => one.path === path)
        ? new MemorySource(path, new TextEncoder().encode('the words'))
        : null,
    tell: () => undefined,
    asShown: async (bytes) => new Blob([bytes])
  });
  const summary = new SummaryRoom({
    index: () => index,
    naming: () => naming,
    record: () => record,
    sources: async () => [source],
    productions: async () => [],
    chosen: () => 2,
    notes: () => 1
  });
  return { media, summary, notes, facets };
}

test('the sheet folds copies, stands by day, and says with whom each was exchanged', async () => {
  const { media } = await rooms();
  const sheet = await media.sheet(ALL_MEDIA);
  assert.deepEqual(
    sheet.days.map(({ day, count }) => `${day}: ${count}`),
    ['2026-03-02: 2', '2026-03-03: 1']
  );
  assert.deepEqual(sheet.kinds, { picture: 2, video: 1 });
  assert.deepEqual(sheet.people, [{ id: SOMEONE, name: 'Ragna', count: 2 }]);
  const rows = await media.rows(ALL_MEDIA, 0, 10);
  assert.deepEqual(
    rows.map(({ name, person, copies, messages }) => [name, person, copies, messages.length]),
    [
      ['boat.png', 'Ragna', 1, 2],
      ['gone.jpg', 'Ragna', 0, 1],
      ['stray.mp4', '', 0, 0]
    ]
  );
});

const NARROWED: [says: string, filter: Partial<MediaFilter>, gives: string][] = [
  ['a kind', { kinds: ['video'] }, 'stray.mp4'],
  ['a person', { person: SOMEONE }, 'boat.png gone.jpg'],
  ['what is not live', { state: 'not live' }, 'gone.jpg'],
  ['without a message', { message: 'without' }, 'stray.mp4'],
  ['a size', { least: 1_000_000 }, 'stray.mp4'],
  ['a name', { query: 'BOAT' }, 'boat.png'],
  ['nothing that there is', { kinds: ['sound'] }, '']
];
for (const [says, filter, gives] of NARROWED)
  test(`the sheet is narrowed to ${says}`, async () => {
    const { media } = await rooms();
    const rows = await media.rows({ ...ALL_MEDIA, ...filter }, 0, 10);
    assert.equal(rows.map(({ name }) => name).join(' '), gives);
    const keys = await media.keys({ ...ALL_MEDIA, ...filter }, 0, 10);
    assert.equal(keys.length, rows.length);
  });

test('chosen files are labelled at once, found by it, and shown with it', async () => {
  const { media, notes, facets } = await rooms();
  assert.deepEqual(await media.keys({ ...ALL_MEDIA, label: 'slipway' }, 0, 10), []);
  assert.equal(await notes.label({ kind: 'file' }, 'slipway', true), 1);
  for (const filter of [{ label: 'slipway' }, { label: '' }, { query: 'slipw' }]) {
    const rows = await media.rows({ ...ALL_MEDIA, ...filter }, 0, 10);
    assert.deepEqual(
      rows.map(({ name, labels }) => [name, labels]),
      [['stray.mp4', ['slipway']]]
    );
  }
  const { rows } = facets.files('files', 'slipway', 0, 10);
  assert.deepEqual(
    rows.map(({ name, labels }) => [name, labels]),
    [['stray.mp4', ['slipway']]]
  );
});

test('a file’s facts name its types, its places and the lines that carry it', async () => {
  const { media } = await rooms();
  const facts = await media.facts({ sourceId: 's1', path: 'boat.png', name: 'boat.png' });
  assert.equal(facts.byName, 'image/png');
  assert.equal(facts.byContent, null);
  assert.equal(facts.copies, 1);
  assert.deepEqual(
    facts.lines.map((line) => [line.with, line.line]),
    [
      ['Ragna', 1],
      ['Ragna', 2]
    ]
  );
  const lost = await media.preview({ sourceId: 's1', path: 'gone.jpg', name: 'gone.jpg' });
  assert.ok(lost.kind === 'none' && /its bytes are not in the source/.test(lost.reason));
  assert.deepEqual(
    (await media.places(SOMEONE)).map(({ message, label }) => [message, label]),
    [['s1.1/m/2', 'quay']]
  );
});

test('the summary counts lines by day, hour and weekday in the case’s zone', async () => {
  const { summary } = await rooms();
  const figures = await summary.figures();
  assert.deepEqual(
    figures.spans.map(({ label, counts }) => [label, counts.live, counts.recovered]),
    [
      ['2026-03-02', 2, 1],
      ['2026-03-04', 1, 0]
    ]
  );
  assert.deepEqual(
    figures.hours.flatMap((n, hour) => (n > 0 ? [[hour, n]] : [])),
    [
      [2, 1],
      [11, 1],
      [12, 1],
      [13, 1]
    ]
  );
  assert.deepEqual(figures.weekdays, [3, 0, 1, 0, 0, 0, 0]);
  assert.equal(figures.correspondents[0]!.name, 'Ragna');
  assert.deepEqual([figures.chosen, figures.notes, figures.gaps.count], [2, 1, 0]);
});
