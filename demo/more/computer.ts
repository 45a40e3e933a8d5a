import initSqlJs from 'sql.js';
import { picture } from './pictures';
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
  const plan = picture(41);
  return {
    'Profile/eirin.desk/main.db': store(150, 40, plan.length),
    'Profile/eirin.desk/main.db.bak': store(110, 0, plan.length),
    'Profile/eirin.desk/old/main (2).db': store(60, 0, plan.length),
    'Documents/Received files/hull plan.png': plan,
    'Documents/accounts 2025.csv': Buffer.from(
      'Date,Item,Amount\n2025-09-01,Deposit yard,80000\n2025-09-02,Rope,412\n2025-09-05,Paint,960\n'
    )
  };
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
