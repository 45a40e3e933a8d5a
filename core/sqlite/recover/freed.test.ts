import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import type { Database as SqlJs } from 'sql.js';
import { filesOf, finish, makeDatabase, snapshot } from '../../tests/databases';
import { insertMessages, messages, seeded, TELEPHONY_SCHEMA } from '../../tests/telephony';
import { Database, recoverTables, SqliteFormatError, type FreedRow, type RecoveredTable } from '..';

function recover(
  bytes: Uint8Array,
  table: string,
  wal?: Uint8Array,
  journal?: Uint8Array
): Recovered {
  const database = Database.open(filesOf(bytes, wal, journal));
  const options = { wanted: (t: { name: string }) => t.name === table, freed: true };
  return listed(finish(recoverTables(database, options)).find((t) => t.schema.name === table)!);
}

type Recovered = Omit<RecoveredTable, 'freed'> & { freed: FreedRow[] };

function listed(table: RecoveredTable): Recovered {
  return { ...table, freed: [...table.freed] };
}

function bodies(table: Recovered, column = 'body'): string[] {
  const at = table.schema.columns.findIndex((c) => c.name === column);
  return table.freed
    .filter((row) => row.hash !== 0)
    .map((row) => String(row.values[at]))
    .sort();
}

const sent = messages(400, seeded(9));

function telephony(change: (db: SqlJs) => void, pragmas = ''): Uint8Array {
  return makeDatabase((db) => {
    db.run(TELEPHONY_SCHEMA);
    insertMessages(db, sent);
    change(db);
  }, pragmas);
}

test('single deleted rows come back whole, with the row numbers of their gaps', () => {
  const gone = sent.filter(({ id }) => id % 9 === 0);
  const table = recover(
    telephony((db) => db.run('DELETE FROM sms WHERE _id % 9 = 0')),
    'sms'
  );
  assert.deepEqual(bodies(table), gone.map((m) => m.body).sort());
  const byBody = new Map(table.freed.map((row) => [row.values[10], row]));
  for (const message of gone) {
    const row = byBody.get(message.body)!;
    assert.equal(row.rowid, message.id);
    assert.equal(row.values[2], message.address);
    assert.equal(row.values[4], message.date);
  }
});

test('neighbours deleted together lie in one merged block and all come back', () => {
  for (const order of ['ASC', 'DESC']) {
    const bytes = telephony((db) => {
      const ids = [50, 51, 52, 53, 54].sort((a, b) => (order === 'ASC' ? a - b : b - a));
      for (const id of ids) db.run(`DELETE FROM sms WHERE _id = ${id}`);
    });
    assert.equal(bodies(recover(bytes, 'sms')).length, 5, order);
  }
});

test('each proof points at the bytes of its row', () => {
  const bytes = telephony((db) => db.run('DELETE FROM sms WHERE _id % 9 = 0'));
  for (const row of recover(bytes, 'sms').freed) {
    const { offset, length } = row.proofs[0]!;
    const cell = Buffer.from(bytes.subarray(offset, offset + length));
    assert.ok(cell.includes(String(row.values[10])), String(row.values[10]));
  }
});

test('copies of live rows are no deletions', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT, n INTEGER)');
    // Row numbers out of order make pages split in the middle and leave copies behind.
    for (let i = 0; i < 500; i++)
      db.run(
        `INSERT INTO t VALUES(${(i * 7919) % 5003}, 'text of row ${i} ${'.'.repeat(i % 60)}', ${i})`
      );
  });
  assert.deepEqual(recover(bytes, 't').freed, []);
});

test('nothing comes back from wiped space', () => {
  const bytes = telephony(
    (db) => db.run('DELETE FROM sms WHERE _id % 3 = 0'),
    'PRAGMA secure_delete=ON;'
  );
  assert.deepEqual(recover(bytes, 'sms').freed, []);
});

test('a dropped table is read by its recovered declaration', () => {
  const bytes = telephony((db) => db.run('DROP TABLE sms'));
  const table = recover(bytes, 'sms');
  assert.equal(table.dropped, true);
  assert.ok(bodies(table).length > sent.length * 0.95, String(bodies(table).length));
});

test('a freed payload is followed over its overflow pages', () => {
  const long = 'A long letter. '.repeat(700);
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT)');
    for (let i = 1; i < 40; i++) db.run('INSERT INTO t(body) VALUES(?)', [`short ${i}`]);
    db.run('INSERT INTO t(body) VALUES(?)', [long]);
    for (let i = 41; i < 60; i++) db.run('INSERT INTO t(body) VALUES(?)', [`short ${i}`]);
    // The first page that is freed becomes a trunk of the free list and loses content: here another one does.
    db.run('CREATE TABLE other(x); INSERT INTO other VALUES(1); DROP TABLE other');
    db.run('DELETE FROM t WHERE id = 40');
  });
  assert.deepEqual(bodies(recover(bytes, 't')), [long]);
});

test('a row whose overflow pages are used again is a fragment, never a mixture', () => {
  const letter = (name: string): string => `${name} `.repeat(900);
  const bytes = makeDatabase((db) => {
    db.run(
      'CREATE TABLE t(id INTEGER PRIMARY KEY, n INTEGER, body TEXT); CREATE TABLE other(id INTEGER PRIMARY KEY, x TEXT)'
    );
    for (let i = 1; i < 40; i++) db.run(`INSERT INTO t(n, body) VALUES(${i * 1000}, 'short ${i}')`);
    db.run('INSERT INTO t(n, body) VALUES(77777, ?)', [letter('first')]);
    db.run('DELETE FROM t WHERE n = 77777');
    db.run('INSERT INTO other(x) VALUES(?)', [letter('second')]);
  });
  const { freed } = recover(bytes, 't');
  assert.equal(freed.length, 1);
  assert.ok(freed[0]!.cut && freed[0]!.cut.bytes > 0);
  assert.ok(letter('first').startsWith(String(freed[0]!.values[2])));
});

test('rows of an older state come back from the log', () => {
  const snap = snapshot(
    `PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT, at INTEGER);
INSERT INTO t VALUES(1,'stays',1700000000),(2,'is deleted',1700000100),(3,'is edited',1700000200);
PRAGMA secure_delete=ON; DELETE FROM t WHERE id=2; UPDATE t SET body='was edited' WHERE id=3;
SNAPSHOT
`,
    'SELECT * FROM t'
  );
  const table = recover(snap.main, 't', snap.wal);
  assert.deepEqual(bodies(table), ['is deleted', 'is edited']);
  assert.ok(table.freed.every((row) => row.proofs[0]!.method === 'log' && row.rowid !== null));
});

test('rows from before the last transaction come back from a persisted journal', () => {
  const snap = snapshot(
    `PRAGMA journal_mode=PERSIST; CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT, at INTEGER);
INSERT INTO t VALUES(1,'stays',1700000000),(2,'is deleted',1700000100);
PRAGMA secure_delete=ON; DELETE FROM t WHERE id=2;
SNAPSHOT
`,
    'SELECT * FROM t'
  );
  const table = recover(snap.main, 't', undefined, snap.journal);
  assert.deepEqual(bodies(table), ['is deleted']);
  assert.equal(table.freed[0]!.proofs[0]!.method, 'journal');
});

test('random histories: what is physically there comes back, and nothing else', () => {
  const step = fc.oneof(
    fc.record({ kind: fc.constant('add' as const), n: fc.integer({ min: 1, max: 30 }) }),
    fc.record({ kind: fc.constant('remove' as const), n: fc.integer({ min: 2, max: 9 }) })
  );
  const pages = fc.constantFrom(512, 1024, 4096);
  fc.assert(
    fc.property(pages, fc.array(step, { minLength: 4, maxLength: 14 }), (size, steps) => {
      const written = new Map<string, number>();
      const bytes = makeDatabase((db) => {
        db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, at INTEGER NOT NULL, body TEXT)');
        for (const { kind, n } of steps) {
          if (kind === 'remove') db.run(`DELETE FROM t WHERE id % ${n} = 1`);
          else for (let i = 0; i < n; i++) add(db, written);
        }
      }, `PRAGMA page_size=${size};`);
      const { live, freed } = recover(bytes, 't');
      const known = new Set([
        ...[...live].map((row) => row.values[2]),
        ...freed.map((row) => row.values[2])
      ]);
      const file = Buffer.from(bytes);
      for (const row of freed) {
        if (row.hash !== 0) assert.equal(written.get(String(row.values[2])), row.values[1]);
        else
          assert.ok(
            [...written.keys()].some((body) => body.startsWith(String(row.values[2] ?? '')))
          );
      }
      const missed = [...written.keys()].filter((body) => file.includes(body) && !known.has(body));
      // A body can outlive its cell's head, so not quite all that is there can be read.
      assert.ok(
        missed.length <= Math.max(1, written.size * 0.05),
        `${missed.length} of ${written.size}`
      );
    }),
    { numRuns: 40, seed: 20261103 }
  );
});

function add(db: SqlJs, written: Map<string, number>): void {
  const n = written.size + 1;
  const body = `message number ${n} ${'tide and slip '.repeat(n % 7)}end`;
  const at = 1_700_000_000 + n * 60;
  written.set(body, at);
  db.run('INSERT INTO t(at, body) VALUES(?, ?)', [at, body]);
}

test('damaged files neither hang nor crash, and every row has its proof', () => {
  const base = telephony(
    (db) => db.run('DELETE FROM sms WHERE _id % 4 = 0'),
    'PRAGMA page_size=1024;'
  );
  const damage = fc.array(
    fc.record({ at: fc.nat(base.length - 1), byte: fc.integer({ min: 0, max: 255 }) }),
    { minLength: 1, maxLength: 40 }
  );
  fc.assert(
    fc.property(damage, fc.nat(base.length), fc.boolean(), (flips, cut, truncate) => {
      const bytes = base.slice(0, truncate ? cut : base.length);
      for (const { at, byte } of flips) if (at < bytes.length) bytes[at] = byte;
      try {
        const database = Database.open(filesOf(bytes));
        const tables = finish(recoverTables(database, { wanted: () => true, freed: true }));
        for (const row of tables.flatMap((table) => [...table.freed])) {
          const { offset, length } = row.proofs[0]!;
          assert.ok(offset >= 0 && length > 0 && offset + length <= bytes.length);
        }
      } catch (error) {
        assert.ok(error instanceof SqliteFormatError, String(error));
      }
    }),
    { numRuns: 60, seed: 4 }
  );
});

test('pages that the last commit cut off are earlier states, however new their frames are', () => {
  const snap = snapshot(
    `PRAGMA auto_vacuum=1; PRAGMA journal_mode=WAL; PRAGMA wal_autocheckpoint=0; PRAGMA secure_delete=ON;
CREATE TABLE t(id INTEGER PRIMARY KEY, body TEXT);
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 900) INSERT INTO t SELECT i, 'a wording of some length, number ' || i FROM n;
DELETE FROM t WHERE id > 20;
SNAPSHOT
`,
    'SELECT count(*) FROM t'
  );
  const table = recover(snap.main, 't', snap.wal);
  assert.equal(table.live.length, 20);
  const numbers = new Set(table.freed.map(({ rowid }) => rowid));
  for (let id = 21; id <= 900; id++) assert.ok(numbers.has(id), `row ${id}`);
});

test('a cut copy of a row that lives elsewhere is no deletion', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE t(id INTEGER PRIMARY KEY, who TEXT, body TEXT, at INTEGER)');
    for (let i = 1; i <= 120; i++)
      db.run('INSERT INTO t VALUES(?, ?, ?, ?)', [
        i,
        `+4477009${10000 + i}`,
        `line ${i} ${'of the same long talk '.repeat(3)}`,
        1_700_000_000 + i * 61
      ]);
    // Rows grow and move to other pages; what they leave is written over in part.
    db.run("UPDATE t SET body = body || ' and more of it, and more' WHERE id % 3 = 0");
    db.run("INSERT INTO t SELECT id + 1000, who, 'short ' || id, at + 7 FROM t WHERE id % 5 = 0");
  });
  const table = recover(bytes, 't');
  for (const { values, cut } of table.freed) {
    if (!cut) continue;
    const [, , body] = values;
    const live = [...table.live].filter((row) => String(row.values[2]).startsWith(String(body)));
    const isEarlier = live.every((row) => String(row.values[2]).endsWith('and more'));
    assert.ok(live.length === 0 || isEarlier, `${body} is live`);
  }
});

test('a table that was dropped is told by its rows where its declaration is wiped', () => {
  const bytes = makeDatabase((db) => {
    db.run('CREATE TABLE stays(a INTEGER PRIMARY KEY, b INTEGER)');
    db.run('CREATE TABLE lost(id INTEGER PRIMARY KEY, who TEXT, body TEXT, at INTEGER)');
    for (let i = 1; i <= 900; i++)
      db.run('INSERT INTO lost VALUES(?, ?, ?, ?)', [
        i,
        `p${i % 9}`,
        `what ${i} said on the quay`,
        1.7e12 + i
      ]);
    db.run('PRAGMA secure_delete=FAST; DROP TABLE lost');
  });
  const database = Database.open(filesOf(bytes));
  const tables = finish(recoverTables(database, { wanted: () => true, freed: true }));
  const guessed = tables.find(({ schema }) => schema.name.startsWith('table_at_page_'))!;
  const said = new Set([...guessed.freed].map(({ values }) => values[2]));
  let present = 0;
  for (let i = 1; i <= 900; i++) {
    const body = `what ${i} said on the quay`;
    if (!Buffer.from(bytes).includes(body)) continue;
    present++;
    assert.ok(said.has(body), body);
  }
  assert.ok(present > 700);
});
