import assert from 'node:assert/strict';
import { test } from 'node:test';
import { askAfter, makeDatabase } from '../../tests/databases';
import { CHAT_SCHEMAS, ROOMS, talk, type Said } from '../../tests/chat-schemas';
import { passOver, type PassResult } from '../../tests/pass';

/** Shares of messages whose text and time, direction and conversation came out right. */
function judge(
  result: PassResult,
  said: Said[]
): { found: number; direction: number; room: number } {
  const { messages, threads } = result.findings;
  const byText = new Map(
    messages.map((m) => [`${m.body}@${Math.floor((m.sentAt ?? 0) / 1000)}`, m])
  );
  const rooms = new Map<string, string>();
  let [found, direction, room] = [0, 0, 0];
  for (const s of said) {
    const message = byText.get(`${s.text}@${Math.floor(s.at / 1000)}`);
    if (!message) continue;
    found++;
    if (message.direction === (s.who === 0 ? 'outgoing' : 'incoming')) direction++;
    const thread = threads.find(({ id }) => id === message.thread)!.id;
    if (!rooms.has(thread)) rooms.set(thread, String(s.room));
    if (rooms.get(thread) === String(s.room)) room++;
  }
  const spread = new Set(messages.map((m) => m.thread)).size;
  const kept = new Set(said.map((s) => s.room)).size;
  return {
    found: found / said.length,
    direction: direction / said.length,
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
    const { direction } = judge(result, alone);
    assert.ok(found > 0.99, `${label}: text and time ${found}; ${candidate?.fit} ${told}`);
    assert.ok(direction > 0.95, `${label}: direction ${direction}; ${candidate?.fit} ${told}`);
    assert.ok(room > 0.95, `${label}: conversation ${room}; ${candidate?.fit} ${told}`);
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

test('databases without messages are not read as such', async () => {
  const others: [string, string][] = [
    [
      'pages',
      `CREATE TABLE urls(id INTEGER PRIMARY KEY, url TEXT, title TEXT, visit_count INTEGER, last_visit_time INTEGER);`
    ],
    [
      'songs',
      `CREATE TABLE songs(id INTEGER PRIMARY KEY, artist TEXT, title TEXT, path TEXT, added INTEGER, seconds INTEGER);`
    ],
    [
      'log',
      `CREATE TABLE log(id INTEGER PRIMARY KEY, level INTEGER, tag TEXT, line TEXT, at INTEGER);`
    ]
  ];
  for (const [label, sql] of others) {
    const bytes = makeDatabase((db) => {
      db.run(sql);
      talk(3, 200).forEach((s, i) => {
        const at = Math.floor(s.at / 1000);
        if (label === 'pages')
          db.run('INSERT INTO urls VALUES(?,?,?,3,?)', [
            i,
            `https://site.example/${i}`,
            s.text,
            at
          ]);
        if (label === 'songs')
          db.run('INSERT INTO songs VALUES(?,?,?,?,?,200)', [
            i,
            'Harbour Band',
            s.text,
            `/m/${i}.mp3`,
            at
          ]);
        if (label === 'log')
          db.run(`INSERT INTO log VALUES(?,2,'net',?,?)`, [i, `opened socket ${i} to host`, at]);
      });
    });
    const { findings, source } = await passOver({ 'x.db': bytes }, { depth: 'indexed' });
    assert.equal(
      findings.messages.length,
      0,
      `${label}: ${JSON.stringify(source.inside.candidates)}`
    );
  }
});
