import assert from 'node:assert/strict';
import { test } from 'node:test';
import { applied, listsOfLines } from '$core/exhibits';
import { STATES } from '$core/records';
import { ZonedTime } from '$core/shown';
import { makeDatabase } from '../../../core/tests/databases';
import { passOver } from '../../../core/tests/pass';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../../core/tests/telephony';
import type { ChunkRecord } from '../storage/schema';
import { ExhibitReader } from './exhibit-rows';
import { Holdings, Naming } from './holdings';
import type { ReadFilter } from './protocol';
import { Reader } from './query';

const sent = messages(500, seeded(4));
const bytes = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, sent);
  db.run('DELETE FROM sms WHERE _id % 10 = 0');
});
const { findings } = await passOver({ 'a.db': bytes });

/** Chunks as the storage keeps them, cut small so that conversations cross them. */
function chunks(size: number): ChunkRecord[] {
  const out: ChunkRecord[] = [];
  for (let part = 0; part * size < findings.messages.length; part++) {
    const list = findings.messages.slice(part * size, (part + 1) * size);
    out.push({
      caseId: 'c',
      sourceId: 's1',
      store: 's1.1',
      part,
      threads: part === 0 ? findings.threads : [],
      people: part === 0 ? findings.people : [],
      messages: list,
      lines: list.map((_, i) => part * size + i + 1),
      attachments: [],
      calls: [],
      contacts: []
    });
  }
  return out;
}

const everything: ReadFilter = { query: '', states: [...STATES], from: null, to: null };

function reader(names: Record<string, string> = {}, chosen: string[] = []): Reader {
  const holdings = new Holdings(chunks(70));
  const naming = new Naming(holdings.people, names, 'Eirin Vold');
  return new Reader(holdings, naming, new ZonedTime('Europe/Oslo'), new Set(chosen));
}

test('every message stands with one correspondent, whatever the chunks', () => {
  const rows = reader().correspondents(everything);
  assert.equal(rows.length, 10);
  assert.equal(
    rows.reduce((sum, row) => sum + row.lines, 0),
    findings.messages.length
  );
  assert.equal(
    rows.reduce((sum, row) => sum + row.notLive, 0),
    50
  );
  for (const row of rows)
    assert.equal(
      row.density.reduce((a, b) => a + b),
      row.lines
    );
});

test('search by words, by name and by number', () => {
  const someone = sent[0]!.address;
  const names = { [`p:${someone}`]: 'Søren Århus' };
  const find = (query: string) => reader(names).correspondents({ ...everything, query });
  const all = sent.filter((m) => m.address === someone).length;
  for (const query of ['soren', 'ÅRHUS', someone, `0${someone.slice(3)}`]) {
    const row = find(query).find((r) => r.id === `p:${someone}`);
    assert.equal(row?.lines, all, query);
  }
  const unique = find('No. 137:');
  assert.deepEqual(
    unique.map((row) => [row.id, row.lines]),
    [[`p:${sent[136]!.address}`, 1]]
  );
  assert.deepEqual(find('nowhere to be found'), []);
});

test('states and days narrow the lines', () => {
  const id = `p:${sent[9]!.address}`;
  const deleted = reader().matching(id, { ...everything, states: ['recovered'] });
  assert.ok(deleted.length > 0 && deleted.every(({ message }) => message.state === 'recovered'));
  const { date } = sent[9]!;
  const moment = reader().matching(id, { ...everything, from: date, to: date });
  assert.deepEqual(
    moment.map(({ message }) => message.body),
    [sent[9]!.body]
  );
});

test('pages of lines join without a seam, and a day is headed once', () => {
  const id = `p:${sent[0]!.address}`;
  const whole = reader().lines(id, everything, 0, 1000);
  const parts = [0, 7, 14, 21, 28, 35].flatMap(
    (from) => reader().lines(id, everything, from, from + 7).lines
  );
  assert.deepEqual(parts, whole.lines.slice(0, 42));
  const headings = whole.lines.flatMap((line) => line.day ?? []);
  assert.equal(new Set(headings).size, headings.length);
});

test('the river counts each message on its day', () => {
  const { days, series } = reader().river(everything, null);
  const total = STATES.flatMap((state) => series[state]).reduce((a, b) => a + b);
  assert.equal(total, findings.messages.length);
  assert.ok(days.every((day, i) => i === 0 || day - days[i - 1]! === 86_400_000));
});

test('exhibits tell how much of each conversation was chosen, trimmed to days', () => {
  const mine = findings.messages.filter((m) => m.thread.endsWith(sent[0]!.address)).slice(0, 30);
  const known = { groupOf: () => 'one', newId: () => 'e' };
  const lists = listsOfLines(
    mine.map((m) => m.id),
    known
  );
  const holdings = new Holdings(chunks(70));
  const naming = new Naming(holdings.people, {}, 'Eirin Vold');
  const exhibits = new ExhibitReader(holdings, naming, new ZonedTime('Europe/Oslo'), []);
  const [row, ...more] = exhibits.view(lists, []).rows;
  assert.deepEqual(more, []);
  assert.equal(row!.count, 30);
  assert.equal(row!.of, holdings.of(row!.first!.correspondent).length);
  assert.match(row!.span, /^2023-11-14 \d\d:\d\d to /);
  const day = row!.firstDay!;
  const trimmed = applied(lists, { type: 'trim', entry: 'e', from: day, to: day }, known);
  const [short] = exhibits.view(trimmed, []).rows;
  assert.ok(short!.count > 0 && short!.count < 30, `${short!.count}`);
  assert.equal(short!.lastDay, day);
  const [exhibit] = exhibits.settings(trimmed, null);
  assert.equal(exhibit?.kind === 'lines' && exhibit.messages.length, short!.count);
});
