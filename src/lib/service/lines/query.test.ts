import { Naming } from '$core/case';
import assert from 'node:assert/strict';
import { test } from 'node:test';
import { applied, listsOfLines } from '$core/exhibits';
import { STATES } from '$core/records';
import { ZonedTime } from '$core/shown';
import { makeDatabase } from '../../../../core/tests/databases';
import { passOver } from '../../../../core/tests/pass';
import {
  insertMessages,
  messages,
  seeded,
  TELEPHONY_SCHEMA
} from '../../../../core/tests/telephony';
import { ExhibitReader } from '../exhibits/exhibit-rows';
import { OPEN_FILTER, type Line, type ReadFilter } from '../api/protocol';
import { Reader } from './query';
import { finderOver, keptCase } from '../tests/kept-case';

const sent = messages(500, seeded(4));
const bytes = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, sent);
  db.run('DELETE FROM sms WHERE _id % 10 = 0');
});
const { findings } = await passOver({ 'a.db': bytes });

const { keeper } = await keptCase([findings]);
const { index } = keeper;

const everything = OPEN_FILTER;

function reader(names: Record<string, string> = {}, zone = 'Europe/Oslo'): Reader {
  const naming = new Naming(index.people, names, 'Eirin Vold');
  return new Reader(index, naming, new ZonedTime(zone), finderOver(index), {
    chosen: new Set(),
    chosenIn: () => Promise.resolve(new Map()),
    codes: new Map(),
    notes: { get: () => undefined, matching: () => [], labelled: () => [] },
    moreHits: () => undefined
  });
}

/** Texts of the lines of a conversation that pass a filter. */
async function bodies(id: string, filter: ReadFilter): Promise<string[]> {
  return (await reader().lines(id, filter, 0, 1000)).lines.map(({ body }) => body);
}

test('every message stands with one correspondent', async () => {
  const rows = await reader().correspondents(everything);
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

test('search by words, by name and by number', async () => {
  const someone = sent[0]!.address;
  const names = { [`p:${someone}`]: 'Søren Århus' };
  const find = (query: string) => reader(names).correspondents({ ...everything, query });
  const all = sent.filter((m) => m.address === someone).length;
  for (const query of ['soren', 'ÅRHUS', someone, `0${someone.slice(3)}`]) {
    const row = (await find(query)).find((r) => r.id === `p:${someone}`);
    assert.equal(row?.lines, all, query);
  }
  const unique = await find('No. 137:');
  assert.deepEqual(
    unique.map((row) => [row.id, row.lines]),
    [[`p:${sent[136]!.address}`, 1]]
  );
  assert.deepEqual(await find('nowhere to be found'), []);
});

test('states and days narrow the lines', async () => {
  const id = `p:${sent[9]!.address}`;
  const only: ReadFilter = { ...everything, states: ['recovered'] };
  const { lines } = await reader().lines(id, only, 0, 1000);
  assert.ok(lines.length > 0 && lines.every(({ state }) => state === 'recovered'));
  const { date } = sent[9]!;
  assert.deepEqual(await bodies(id, { ...everything, from: date, to: date }), [sent[9]!.body]);
});

test('pages of lines join without a seam, and a day is headed once', async () => {
  const id = `p:${sent[0]!.address}`;
  const whole = await reader().lines(id, everything, 0, 1000);
  const parts: Line[] = [];
  for (const from of [0, 7, 14, 21, 28, 35])
    parts.push(...(await reader().lines(id, everything, from, from + 7)).lines);
  assert.deepEqual(parts, whole.lines.slice(0, 42));
  const headings = whole.lines.flatMap((line) => line.day ?? []);
  assert.equal(new Set(headings).size, headings.length);
});

test('the river counts each message on its day', async () => {
  const { days, series } = await reader().river(everything, null);
  const total = STATES.flatMap((state) => series[state]).reduce((a, b) => a + b);
  assert.equal(total, findings.messages.length);
  assert.ok(days.every((day, i) => i === 0 || day - days[i - 1]! === 86_400_000));
});

test('the river’s days are those of the case’s zone, and say when they begin', async () => {
  for (const zone of ['Etc/UTC', 'Europe/Oslo', 'Pacific/Auckland', 'America/St_Johns']) {
    const { days, starts, series } = await reader({}, zone).river(everything, null);
    const named = new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short' });
    const expected = new Map<string, number>();
    for (const { sentAt } of findings.messages) {
      const day = named.format(sentAt!);
      expected.set(day, (expected.get(day) ?? 0) + 1);
    }
    const told = days.flatMap((day, i): [string, number][] => {
      const lines = STATES.reduce((sum, state) => sum + series[state][i]!, 0);
      return lines === 0 ? [] : [[new Date(day).toISOString().slice(0, 10), lines]];
    });
    assert.deepEqual(told, [...expected].sort(), zone);
    assert.equal(starts.length, days.length + 1);
    days.forEach((day, i) => {
      const date = new Date(day).toISOString().slice(0, 10);
      assert.equal(named.format(starts[i]), date, zone);
      assert.notEqual(named.format(starts[i]! - 1), date, zone);
    });
  }
});

test('exhibits tell how much of each conversation was chosen, trimmed to days', async () => {
  const mine = findings.messages.filter((m) => m.thread.endsWith(sent[0]!.address)).slice(0, 30);
  const known = { groupOf: () => 'one', newId: () => 'e' };
  const lists = listsOfLines(
    mine.map((m) => m.id),
    known
  );
  const naming = new Naming(index.people, {}, 'Eirin Vold');
  const lines = await index.briefs(mine.map(({ id }) => id));
  const time = new ZonedTime('Europe/Oslo');
  const exhibits = new ExhibitReader(index, naming, time, [], new Map(), lines);
  const [row, ...more] = exhibits.view(lists, []).rows;
  assert.deepEqual(more, []);
  assert.equal(row!.count, 30);
  const { row: all } = await index.rows(row!.first!.correspondent);
  assert.equal(row!.of, all.length);
  assert.match(row!.span, /^2023-11-14 \d\d:\d\d to /);
  const day = row!.firstDay!;
  const trimmed = applied(lists, { type: 'trim', entry: 'e', from: day, to: day }, known);
  const [short] = exhibits.view(trimmed, []).rows;
  assert.ok(short!.count > 0 && short!.count < 30, `${short!.count}`);
  assert.equal(short!.lastDay, day);
  const [exhibit] = exhibits.settings(trimmed, null);
  assert.equal(exhibit?.kind === 'lines' && exhibit.messages.length, short!.count);
});
