import initSqlJs from 'sql.js';
import { writeLog } from '../../bench/writers/log';
import { media } from '../media';
import { smallTalk } from './talk';

const SQL = await initSqlJs();
const FROM = Date.UTC(2025, 7, 18, 10);
const SCHEMA = `
CREATE TABLE Accounts(id INTEGER PRIMARY KEY, signin_name TEXT, fullname TEXT);
CREATE TABLE Conversations(id INTEGER PRIMARY KEY, identity TEXT, displayname TEXT, type INTEGER);
CREATE TABLE Participants(id INTEGER PRIMARY KEY, convo_id INTEGER, identity TEXT);
CREATE TABLE Contacts(id INTEGER PRIMARY KEY, displayname TEXT);
CREATE TABLE Messages(id INTEGER PRIMARY KEY, convo_id INTEGER, author TEXT, from_dispname TEXT, timestamp INTEGER, type INTEGER, body_xml TEXT, guid BLOB, edited_timestamp INTEGER);
CREATE TABLE Transfers(id INTEGER PRIMARY KEY, chatmsg_guid BLOB, filename TEXT, filepath TEXT, filesize TEXT);
CREATE TABLE Calls(id INTEGER PRIMARY KEY, begin_timestamp INTEGER, duration INTEGER, is_incoming INTEGER, conv_dbid INTEGER, host_identity TEXT);
`;

/** The office computer's user profile: the desktop program's store, and two older copies of it. */
export function computerProfile(): Record<string, Uint8Array> {
  const plan = media('hull-plan.png');
  const current = store(150, 40, plan.length);
  return {
    'Profile/eirin.desk/main.db': current,
    'Profile/eirin.desk/main.db-wal': lastEvening(current),
    'Profile/eirin.desk/main.db.bak': store(110, 0, plan.length),
    'Profile/eirin.desk/old/main (2).db': store(60, 0, plan.length),
    'Documents/Received files/hull plan.png': plan,
    'Documents/accounts 2025.csv': Buffer.from(
      'Date,Item,Amount\n2025-09-01,Deposit yard,80000\n2025-09-02,Rope,412\n2025-09-05,Paint,960\n'
    )
  };
}

/** What the program had written but not yet moved into its file when the computer was taken: Halvard takes a line back. */
function lastEvening(current: Uint8Array): Uint8Array {
  const last = lastNumber(current);
  const at = (minutes: number): number => Math.floor(FROM / 1000) + 96 * 86_400 + minutes * 60;
  const said = (nth: number, own: boolean, minutes: number, text: string): string =>
    `INSERT INTO Messages VALUES(${last + nth},1,${own ? "'eirin.desk','Eirin Vold'" : "'halvard.yard','Halvard Nystuen'"},${at(minutes)},61,'${text}',NULL,NULL)`;
  const evening = [
    said(1, false, 0, 'Between us: the mill gave me the oak for half. Keep that out of the quote.'),
    `${said(2, true, 4, 'I did not read that.')}; ${said(3, false, 9, 'Read what?')}`,
    `PRAGMA secure_delete=ON; DELETE FROM Messages WHERE id = ${last + 1}`,
    said(4, true, 31, 'Exactly.')
  ];
  let now = current;
  const commits = evening.map((sql) => ({ bytes: (now = after(now, sql)) }));
  return writeLog(current, commits, { pageSize: 4096 });
}

function lastNumber(bytes: Uint8Array): number {
  const db = new SQL.Database(bytes);
  const [answer] = db.exec('SELECT max(id) FROM Messages');
  db.close();
  return Number(answer!.values[0]![0]);
}

function after(bytes: Uint8Array, sql: string): Uint8Array {
  const db = new SQL.Database(bytes);
  db.run(sql);
  const out = db.export();
  db.close();
  return out;
}

/** `removed` of the oldest lines were deleted by the program's own tidying. */
function store(lines: number, removed: number, size: number): Uint8Array {
  const db = new SQL.Database();
  db.run('PRAGMA secure_delete=OFF');
  db.run(SCHEMA);
  db.run(`INSERT INTO Accounts VALUES(1,'eirin.desk','Eirin Vold');
    INSERT INTO Conversations VALUES(1,'halvard.yard','Halvard Nystuen',1),(2,'ingrid.mo','Ingrid Mo',1);
    INSERT INTO Participants VALUES(1,1,'halvard.yard'),(2,1,'eirin.desk'),(3,2,'ingrid.mo'),(4,2,'eirin.desk');`);
  const talk = [
    ...smallTalk(2, FROM, lines).map((said) => ({ ...said, room: 1 })),
    ...smallTalk(8, FROM + 9e5, Math.floor(lines / 2)).map((said) => ({ ...said, room: 2 }))
  ];
  talk.sort((a, b) => a.at - b.at);
  talk.forEach(({ at, own, text, room }, i) => {
    const [other, name] =
      room === 1 ? ['halvard.yard', 'Halvard Nystuen'] : ['ingrid.mo', 'Ingrid Mo'];
    db.run('INSERT INTO Messages VALUES(?,?,?,?,?,61,?,NULL,NULL)', [
      i + 1,
      room,
      own ? 'eirin.desk' : other,
      own ? 'Eirin Vold' : name,
      Math.floor(at / 1000),
      text.replaceAll('&', '&amp;').replaceAll("'", '&apos;')
    ]);
  });
  const file = talk.length + 1;
  db.run(
    `INSERT INTO Messages VALUES(?,1,'halvard.yard','Halvard Nystuen',?,68,'<files alt="hull plan"></files>',x'0a0b',NULL)`,
    [file, Math.floor(FROM / 1000) + 9999]
  );
  db.run(
    `INSERT INTO Transfers VALUES(1,x'0a0b','hull plan.png','C:\\Users\\eirin\\Documents\\Received files\\hull plan.png',?)`,
    [String(size)]
  );
  db.run(`INSERT INTO Calls VALUES(1,?,340,1,1,'halvard.yard'),(2,?,NULL,1,2,'ingrid.mo')`, [
    Math.floor(FROM / 1000) + 5000,
    Math.floor(FROM / 1000) + 90_000
  ]);
  if (removed > 0) db.run(`DELETE FROM Messages WHERE id <= ${removed}`);
  const bytes = db.export();
  db.close();
  return bytes;
}
