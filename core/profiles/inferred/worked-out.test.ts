import assert from 'node:assert/strict';
import { test } from 'node:test';
import { askAfter, makeDatabase } from '../../tests/databases';
import { CHAT_SCHEMAS, ROOMS, talk, type Said } from '../../tests/chat-schemas';
import { passOver, type PassResult } from '../../tests/pass';
import { buildStore, ZONE } from '../../tests/unknown/build';
import { plans } from '../../tests/unknown/dimensions';
import { isConfidentlyWrong, isRight, judge as judgeStore } from '../../tests/unknown/judge';
import { OTHERS, otherStore } from '../../tests/unknown/no-messages';

/** Shares of messages whose text and time, direction and conversation came out right. */
function judge(
  result: PassResult,
  said: Said[]
): { found: number; direction: number; inverted: number; room: number } {
  const { messages, threads } = result.findings;
  const byText = new Map(
    messages.map((m) => [`${m.body}@${Math.floor((m.sentAt ?? 0) / 1000)}`, m])
  );
  const rooms = new Map<string, string>();
  let [found, direction, inverted, room] = [0, 0, 0, 0];
  for (const s of said) {
    const message = byText.get(`${s.text}@${Math.floor(s.at / 1000)}`);
    if (!message) continue;
    found++;
    if (message.direction === (s.who === 0 ? 'outgoing' : 'incoming')) direction++;
    if (message.direction === (s.who === 0 ? 'incoming' : 'outgoing')) inverted++;
    const thread = threads.find(({ id }) => id === message.thread)!.id;
    if (!rooms.has(thread)) rooms.set(thread, String(s.room));
    if (rooms.get(thread) === String(s.room)) room++;
  }
  const spread = new Set(messages.map((m) => m.thread)).size;
  const kept = new Set(said.map((s) => s.room)).size;
  return {
    found: found / said.length,
    direction: direction / said.length,
    inverted: inverted / said.length,
    room: spread <= kept ? room / said.length : 0
  };
}

test('conversations come back from schemas that no profile knows', async () => {
  for (const [i, { label, make }] of CHAT_SCHEMAS.entries()) {
    const said = talk(100 + i);
    const result = await passOver({ 'chat.db': make(said) }, { depth: 'indexed' });
    const [candidate] = result.source.inside.candidates;
    const told = JSON.stringify(candidate?.reasons);
    const kept = /^(from and to|direction in words|numbers and boxes)/.test(label)
      ? said.filter((s) => ROOMS[s.room]!.length === 1)
      : said;
    // Kinds of group messages do not say who of the group wrote.
    const { found, room } = judge(result, kept);
    const alone = /^kinds for/.test(label) ? said.filter((s) => ROOMS[s.room]!.length === 1) : kept;
    const { direction, inverted } = judge(result, alone);
    assert.equal(inverted, 0, `${label}: ${inverted} inverted; ${told}`);
    assert.ok(found > 0.99, `${label}: text and time ${found}; ${candidate?.fit} ${told}`);
    // Two kinds by number, and nothing that shows which is the owner's: that is asked, not guessed.
    if (/^(kinds for|numbers and boxes)/.test(label)) assert.equal(direction, 0, label);
    else assert.ok(direction > 0.95, `${label}: direction ${direction}; ${candidate?.fit} ${told}`);
    assert.ok(room > 0.95, `${label}: conversation ${room}; ${candidate?.fit} ${told}`);
  }
});

/** What the talk says, in the same few sentences again and again; some with a number. */
const STOCK = [
  'On my way.',
  'Yes, thanks.',
  'Who has the key to the shed?',
  'Tea at three, then.',
  'Not today, the wind is too strong.',
  'Please bring rope number'
];

test('a talk in the same few sentences is still a talk', async () => {
  for (const [i, { label, make }] of CHAT_SCHEMAS.entries()) {
    const said = talk(200 + i).map((line, n) => {
      const sentence = STOCK[(n * 7 + line.room) % STOCK.length]!;
      return { ...line, text: sentence.endsWith('r') ? `${sentence} ${n}.` : sentence };
    });
    const kept = /^(from and to|direction in words|numbers and boxes)/.test(label)
      ? said.filter((s) => ROOMS[s.room]!.length === 1)
      : said;
    const { findings, source } = await passOver({ 'chat.db': make(said) }, { depth: 'indexed' });
    const told = JSON.stringify(source.inside.candidates);
    assert.ok(findings.messages.length >= kept.length * 0.99, `${label}: ${told}`);
    const isProgram = findings.messages.some(({ direction }) => direction === 'system');
    assert.equal(isProgram, false, `${label}: ${told}`);
  }
});

test('deleted messages come back through a worked-out profile too', async () => {
  const said = talk(7);
  const { make } = CHAT_SCHEMAS[1]!;
  const bytes = askAfter(make(said), 'DELETE FROM message WHERE id % 4 = 0');
  const { findings } = await passOver({ 'chat.db': bytes });
  const recovered = findings.messages.filter((m) => m.state === 'recovered');
  const texts = new Set(said.filter((_, i) => (i + 1) % 4 === 0).map((s) => s.text));
  assert.ok(recovered.length > 180, `${recovered.length}`);
  assert.ok(recovered.every((m) => texts.has(m.body)));
});

test('stores of all kinds are read right, and none is read wrong as if it were sure', async () => {
  for (const plan of plans(9, 0)) {
    if (plan.style === 'cryptic') continue;
    const store = buildStore(plan);
    const verdict = judgeStore(
      store,
      await passOver({ [store.path]: store.bytes }, { zone: ZONE })
    );
    assert.ok(isRight(verdict), `${plan.label}: ${JSON.stringify(verdict)}`);
    assert.equal(isConfidentlyWrong(verdict), false, plan.label);
    assert.ok(verdict.deleted > 0.7, `${plan.label}: ${verdict.deleted} of the deleted`);
  }
});

test('databases without messages are not read as such', async () => {
  for (const [i, other] of OTHERS.entries()) {
    const { findings, source } = await passOver({ 'x.db': otherStore(other, 50 + i) });
    const told = JSON.stringify(source.inside.candidates);
    assert.equal(findings.messages.length, 0, `${other.label}: ${told}`);
  }
});

/** What people wrote to each other, in a table that is called and made like a log of a program. */
function likeALog(said: readonly Said[]): Uint8Array {
  return makeDatabase((db) => {
    db.run(
      'CREATE TABLE log(id INTEGER PRIMARY KEY, level INTEGER, tag TEXT, at INTEGER, entry TEXT)'
    );
    db.run('CREATE TABLE settings(key TEXT, value TEXT)');
    for (const [i, { text, at, who }] of said.entries())
      db.run('INSERT INTO log(level, tag, at, entry) VALUES(?,?,?,?)', [
        i % 3,
        `w${who}`,
        at,
        text
      ]);
  });
}

test('a store with dated texts is never passed over in silence: its best readings are offered', async () => {
  const said = talk(31);
  const { events, source } = await passOver({ 'x.db': likeALog(said) }, { depth: 'indexed' });
  const [candidate] = source.inside.candidates;
  assert.equal(candidate?.read, false);
  const [reading, ...others] = candidate.readings!;
  assert.equal(others.length, 0);
  assert.equal(reading!.table, 'log');
  assert.equal(reading!.rows, said.length);
  assert.match(reading!.against!, /level, tag are those of a log of an app/);
  assert.deepEqual(
    reading!.lines,
    said.slice(0, 3).map(({ at, text }) => ({ at: Math.trunc(at), text }))
  );
  const notes = events.flatMap((event) => (event.type === 'note' ? [event.note] : []));
  const note = notes.find(({ code }) => code === 'readings-offered');
  assert.ok(!notes.some(({ code }) => code === 'no-messages'));
  assert.match(note!.text, /log \(\d+ rows, fit \d+/);
});

test('no more than three readings are offered, and none of fewer than twenty texts', async () => {
  const bytes = makeDatabase((db) => {
    for (const [n, rows] of [60, 50, 40, 30, 12].entries()) {
      db.run(`CREATE TABLE notes${n}(id INTEGER PRIMARY KEY, at INTEGER, content TEXT)`);
      for (const { at, text } of talk(n + 1).slice(0, rows))
        db.run(`INSERT INTO notes${n}(at, content) VALUES(?,?)`, [at, `${text} ${n}`]);
    }
  });
  const { source } = await passOver({ 'x.db': bytes }, { depth: 'indexed' });
  const [candidate] = source.inside.candidates;
  assert.equal(candidate?.read, false);
  assert.deepEqual(
    candidate.readings?.map(({ table }) => table),
    ['notes0', 'notes1', 'notes2']
  );
});

test('what a known profile reads is not read again as messages', async () => {
  const calls = OTHERS[0]!;
  const withChat = makeDatabase((db) => {
    db.run(calls.sql.replace('date INTEGER', 'date INTEGER, subject TEXT'));
    for (let i = 1; i < 80; i++)
      db.run(
        `INSERT INTO calls(_id, number, date, duration, type, new, name, subject) VALUES(?,?,?,?,?,0,?,?)`,
        [
          i,
          `+4477009000${i % 9}`,
          1_700_000_000_000 + i * 1e6,
          0,
          3,
          'Ansel',
          `please call back about boat ${i} soon`
        ]
      );
  });
  const { findings } = await passOver({ 'calls.db': withChat });
  assert.equal(findings.messages.length, 0);
  assert.equal(findings.calls.length, 79);
});

test('older versions of tables that a known profile reads elsewhere are no messages', async () => {
  const rows = (db: {
    run: (sql: string, values?: (string | number | null)[]) => unknown;
  }): void => {
    for (let i = 1; i < 60; i++)
      db.run('INSERT INTO calls(number, date, type, name) VALUES(?,?,?,?)', [
        `+4477009000${i % 40}`,
        1_700_000_000_000 + i * 1e6,
        1 + (i % 2),
        `met on the quay by the old lamp, number ${i}`
      ]);
  };
  const full = makeDatabase((db) => {
    db.run(
      'CREATE TABLE calls(_id INTEGER PRIMARY KEY, number TEXT, date INTEGER, duration INTEGER, type INTEGER, name TEXT)'
    );
    rows(db);
  });
  const older = makeDatabase((db) => {
    db.run(
      'CREATE TABLE calls(_id INTEGER PRIMARY KEY, number TEXT, date INTEGER, type INTEGER, name TEXT)'
    );
    rows(db);
  });
  const { findings } = await passOver({ 'a/old/calls.bak': older, 'b/calls.db': full });
  assert.equal(findings.messages.length, 0);
  assert.equal(findings.calls.length, 59);
});

test('tables without messages are not read as some where their declarations are lost', async () => {
  for (const [i, other] of OTHERS.entries()) {
    const bytes = otherStore(other, 90 + i);
    const headless = bytes.slice();
    headless.fill(0, 0, 4096);
    const image = Buffer.concat([Buffer.alloc(8192, 7), bytes, Buffer.alloc(4096, 7)]);
    for (const [what, file, depth] of [
      ['first page lost', headless, 'freed'],
      ['in an image', image, 'whole']
    ] as const) {
      const { findings, source } = await passOver({ 'x.img': file }, { depth });
      const told = JSON.stringify(source.inside.candidates.map(({ reasons }) => reasons));
      assert.equal(findings.messages.length, 0, `${other.label}, ${what}: ${told}`);
    }
  }
});
