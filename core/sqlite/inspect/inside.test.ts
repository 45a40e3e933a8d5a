import assert from 'node:assert/strict';
import { test } from 'node:test';
import { MemorySource } from '../../host';
import { finish, makeDatabase, snapshot } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { Database } from '../read/database';
import { recoverTables, sampledLayouts } from '../recover/recover';
import { explainCell } from './explain';
import { logStretches } from './log-states';
import { PAGE_KINDS, pageMap } from './page-map';

const bytes = makeDatabase((db) => {
  db.run(TELEPHONY_SCHEMA);
  insertMessages(db, messages(400, seeded(9)));
  db.run('DELETE FROM sms WHERE _id % 6 = 0; CREATE INDEX by_date ON sms(date)');
});
const database = Database.open({ main: new MemorySource('a.db', bytes) });

test('every page has its kind, and the totals are those of the file', () => {
  const { map } = finish(pageMap(database));
  const kinds = [...map.kinds].map((kind) => PAGE_KINDS[kind]!);
  assert.equal(kinds.length, bytes.length / 4096);
  assert.ok(kinds.includes('table leaf') && kinds.includes('table interior'));
  assert.ok(kinds.includes('index leaf') && !kinds.includes('unknown'));
  assert.ok(map.space.blocks > 0 && map.space.blockBytes > map.space.blocks * 4);
  assert.ok(map.space.unallocatedBytes > 0);
});

test('each byte of a live and of a freed record is named, and the fields are its values', () => {
  const tables = finish(recoverTables(database, { wanted: () => true, freed: true }));
  const sms = tables.find(({ schema }) => schema.name === 'sms')!;
  const layouts = sampledLayouts(database);
  const { uses } = finish(pageMap(database));
  let rebuilt = 0;
  for (const row of [...sms.live].slice(0, 20)) {
    const cell = explainCell(database, layouts, uses, row)!;
    assert.deepEqual(
      cell.fields.map(({ value }) => value),
      row.values
    );
    covers(cell.spans, row.offset - cell.pageOffset, row.length);
  }
  for (const row of [...sms.freed].filter(({ lost }) => lost.length === 0)) {
    const place = row.proofs[0]!;
    const cell = explainCell(database, layouts, uses, place)!;
    assert.ok(cell, `the record at ${place.offset} is read again`);
    assert.deepEqual(
      cell.fields.slice(1).map(({ value }) => value),
      row.values.slice(1)
    );
    covers(cell.spans, place.offset - cell.pageOffset, place.length);
    if (cell.rebuilt > 0) rebuilt++;
  }
  assert.ok(rebuilt > 10);
});

/** Spans follow each other without a hole from the cell's first byte to its last. */
function covers(spans: { start: number; end: number }[], start: number, length: number): void {
  let at = start;
  for (const span of [...spans].sort((a, b) => a.start - b.start)) {
    assert.equal(span.start, at);
    at = span.end;
  }
  assert.equal(at, start + length);
}

test('the log is told as a sequence of states', () => {
  const { main, wal } = snapshot(
    `PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; CREATE TABLE t(x);
     INSERT INTO t VALUES(1); INSERT INTO t VALUES(2); INSERT INTO t VALUES(3);
SNAPSHOT`,
    'SELECT x FROM t'
  );
  const open = Database.open({
    main: new MemorySource('b.db', main),
    wal: new MemorySource('b.db-wal', wal!)
  });
  const stretches = logStretches(open);
  assert.equal(stretches.filter(({ kind }) => kind === 'commit').length, 4);
  assert.equal(
    stretches.reduce((sum, { frames }) => sum + frames, 0),
    open.log!.frames.length
  );
});
