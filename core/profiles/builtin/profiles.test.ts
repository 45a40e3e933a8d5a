import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { test } from 'node:test';
import { binaryPlist } from '../../../bench/writers/backup';
import { makeDatabase } from '../../tests/databases';
import { passOver, type PassResult } from '../../tests/pass';

/** One line a message: time, direction, writer's address, conversation's people, body. */
function lines({ findings }: PassResult): string[] {
  const address = new Map(findings.people.map((p) => [p.id, p.owner ? 'me' : p.addresses[0]!]));
  const threads = new Map(findings.threads.map((t) => [t.id, t]));
  return findings.messages.map((m) => {
    const { participants, title } = threads.get(m.thread)!;
    const who = m.sender === null ? '-' : address.get(m.sender)!;
    const room = title ?? participants.map((p) => address.get(p)).join('+');
    const at = m.sentAt === null ? '-' : new Date(m.sentAt).toISOString().slice(0, 19);
    return `${at} ${m.direction} ${who} [${room}] ${m.body}`;
  });
}

async function read(sql: string, extra: Record<string, Uint8Array> = {}): Promise<PassResult> {
  return passOver({ 'store.db': makeDatabase((db) => db.run(sql)), ...extra });
}

const T = Date.UTC(2026, 4, 1, 12) / 1000;
const SINCE_2001 = T - 978_307_200;

test('jid chat: groups, media with thumbnails, replies, reactions, places, system rows', async () => {
  const result = await read(
    `CREATE TABLE jid(_id INTEGER PRIMARY KEY, user TEXT, server TEXT, raw_string TEXT);
     CREATE TABLE chat(_id INTEGER PRIMARY KEY, jid_row_id INTEGER, subject TEXT, hidden INTEGER);
     CREATE TABLE message(_id INTEGER PRIMARY KEY, chat_row_id INTEGER, from_me INTEGER, key_id TEXT, sender_jid_row_id INTEGER, status INTEGER, timestamp INTEGER, message_type INTEGER, text_data TEXT);
     CREATE TABLE message_media(message_row_id INTEGER PRIMARY KEY, file_path TEXT, file_size INTEGER, mime_type TEXT, media_name TEXT, media_caption TEXT, media_duration INTEGER, width INTEGER, height INTEGER);
     CREATE TABLE message_thumbnail(message_row_id INTEGER PRIMARY KEY, thumbnail BLOB);
     CREATE TABLE message_quoted(message_row_id INTEGER PRIMARY KEY, key_id TEXT);
     CREATE TABLE message_location(message_row_id INTEGER PRIMARY KEY, latitude REAL, longitude REAL, place_name TEXT);
     CREATE TABLE message_add_on(_id INTEGER PRIMARY KEY, parent_message_row_id INTEGER, from_me INTEGER, sender_jid_row_id INTEGER);
     CREATE TABLE message_add_on_reaction(message_add_on_row_id INTEGER PRIMARY KEY, reaction TEXT, sender_timestamp INTEGER);
     INSERT INTO jid VALUES(1,'447700900123','s','447700900123@s.chat.example'),(2,'447700900124','s','447700900124@s.chat.example'),(3,'g','g','447700900123-15@g.us');
     INSERT INTO chat VALUES(1,1,NULL,0),(2,3,'Crew',0);
     INSERT INTO message VALUES(1,-1,0,'x',NULL,0,0,0,NULL),
       (2,1,0,'a1',NULL,0,${T}000,0,'is it on'),(3,1,1,'a2',NULL,5,${T + 1}000,0,'yes'),
       (4,2,0,'a3',2,0,${T + 2}000,0,'hello crew'),(5,2,0,'a4',NULL,6,${T + 3}000,7,NULL),
       (6,1,0,'a5',NULL,0,${T + 4}000,1,NULL),(7,1,0,'a6',NULL,0,${T + 5}000,5,NULL);
     INSERT INTO message_media VALUES(6,'Media/IMG-1.jpg',4,'image/jpeg',NULL,'the quay',NULL,640,480);
     INSERT INTO message_thumbnail VALUES(6,x'ffd8ff');
     INSERT INTO message_quoted VALUES(3,'a1');
     INSERT INTO message_location VALUES(7,60.5,5.25,'Quay');
     INSERT INTO message_add_on VALUES(1,3,0,1);
     INSERT INTO message_add_on_reaction VALUES(1,'👍',${T + 9}000);`,
    { 'Media/IMG-1.jpg': Buffer.from('pict') }
  );
  assert.deepEqual(lines(result), [
    '2026-05-01T12:00:00 incoming +447700900123 [+447700900123] is it on',
    '2026-05-01T12:00:01 outgoing me [+447700900123] yes',
    '2026-05-01T12:00:02 incoming +447700900124 [Crew] hello crew',
    '2026-05-01T12:00:03 system - [Crew] ',
    '2026-05-01T12:00:04 incoming +447700900123 [+447700900123] the quay',
    '2026-05-01T12:00:05 incoming +447700900123 [+447700900123] '
  ]);
  const { messages, attachments } = result.findings;
  assert.equal(messages[1]!.replyTo, messages[0]!.id);
  assert.deepEqual(messages[1]!.reactions, [
    { person: 'p:+447700900123', text: '👍', at: (T + 9) * 1000 }
  ]);
  assert.deepEqual(messages[5]!.location, { lat: 60.5, lon: 5.25, label: 'Quay' });
  assert.deepEqual(
    [attachments[0]!.width, attachments[0]!.thumbnail!.length, attachments[0]!.sha256 !== null],
    [640, 3, true]
  );
});

test('jid chat in its older single table', async () => {
  const result = await read(
    `CREATE TABLE messages(_id INTEGER PRIMARY KEY, key_remote_jid TEXT, key_from_me INTEGER, key_id TEXT, status INTEGER, data TEXT, timestamp INTEGER, media_mime_type TEXT, media_name TEXT, media_size INTEGER, media_caption TEXT, latitude REAL, longitude REAL, remote_resource TEXT, raw_data BLOB);
     CREATE TABLE chat_list(_id INTEGER PRIMARY KEY, key_remote_jid TEXT, subject TEXT);
     INSERT INTO chat_list VALUES(1,'447700900123-1@g.us','Crew');
     INSERT INTO messages(_id,key_remote_jid,key_from_me,key_id,status,data,timestamp,remote_resource) VALUES(2,'447700900123@s.chat.example',0,'k1',0,'hi',${T}000,NULL),(3,'447700900123@s.chat.example',1,'k2',5,'ho',${T + 1}000,NULL),(4,'447700900123-1@g.us',0,'k3',0,'all',${T + 2}000,'447700900125@s.chat.example');`
  );
  assert.deepEqual(lines(result), [
    '2026-05-01T12:00:00 incoming +447700900123 [+447700900123] hi',
    '2026-05-01T12:00:01 outgoing me [+447700900123] ho',
    '2026-05-01T12:00:02 incoming +447700900125 [Crew] all'
  ]);
});

test('session–message–media chat', async () => {
  const result = await read(
    `CREATE TABLE ZQCHATSESSION(Z_PK INTEGER PRIMARY KEY, ZCONTACTJID VARCHAR, ZPARTNERNAME VARCHAR);
     CREATE TABLE ZQGROUPMEMBER(Z_PK INTEGER PRIMARY KEY, ZCHATSESSION INTEGER, ZMEMBERJID VARCHAR, ZCONTACTNAME VARCHAR);
     CREATE TABLE ZQMESSAGE(Z_PK INTEGER PRIMARY KEY, ZCHATSESSION INTEGER, ZISFROMME INTEGER, ZMESSAGEDATE TIMESTAMP, ZTEXT VARCHAR, ZMESSAGETYPE INTEGER, ZGROUPMEMBER INTEGER, ZMEDIAITEM INTEGER, ZSTANZAID VARCHAR, ZPARENTMESSAGE INTEGER, ZFROMJID VARCHAR);
     CREATE TABLE ZQMESSAGEINFO(Z_PK INTEGER PRIMARY KEY, ZMESSAGE INTEGER);
     CREATE TABLE ZQMEDIAITEM(Z_PK INTEGER PRIMARY KEY, ZMESSAGE INTEGER, ZMEDIALOCALPATH VARCHAR, ZFILESIZE INTEGER, ZTITLE VARCHAR, ZVCARDSTRING VARCHAR, ZMOVIEDURATION INTEGER, ZLATITUDE FLOAT, ZLONGITUDE FLOAT, ZXMPPTHUMBPATH VARCHAR, ZMEDIAURL VARCHAR);
     INSERT INTO ZQCHATSESSION VALUES(1,'447700900123@s.chat.example','Tilda'),(2,'447700900123-99@g.us','Crew');
     INSERT INTO ZQGROUPMEMBER VALUES(7,2,'447700900124@s.chat.example','Ansel');
     INSERT INTO ZQMESSAGE VALUES(1,1,0,${SINCE_2001},'hi',0,NULL,NULL,'s1',NULL,'447700900123@s.chat.example'),(2,1,1,${SINCE_2001 + 1},'ho',0,NULL,NULL,'s2',1,NULL),(3,2,0,${SINCE_2001 + 2},'all',0,7,NULL,'s3',NULL,'447700900123-99@g.us'),(4,1,0,${SINCE_2001 + 3},NULL,1,NULL,1,'s4',NULL,NULL);
     INSERT INTO ZQMEDIAITEM VALUES(1,4,'Media/a/b/pic.jpg',4,'look here','image/jpeg',0,0,0,NULL,'https://x');`,
    { 'AppGroup/Message/Media/a/b/pic.jpg': Buffer.from('pict') }
  );
  assert.deepEqual(lines(result), [
    '2026-05-01T12:00:00 incoming +447700900123 [+447700900123] hi',
    '2026-05-01T12:00:01 outgoing me [+447700900123] ho',
    '2026-05-01T12:00:02 incoming +447700900124 [Crew] all',
    '2026-05-01T12:00:03 incoming +447700900123 [+447700900123] look here'
  ]);
  const { messages, attachments, people } = result.findings;
  assert.equal(messages[1]!.replyTo, messages[0]!.id);
  assert.deepEqual(
    [attachments[0]!.mime, attachments[0]!.path],
    ['image/jpeg', 'AppGroup/Message/Media/a/b/pic.jpg']
  );
  assert.deepEqual(people.map((p) => p.name).filter(Boolean), ['Tilda', 'Ansel']);
});

test('one table per conversation: contacts by hash, kinds, XML bodies, speakers in groups', async () => {
  const hash = (name: string): string => createHash('md5').update(name).digest('hex');
  const table = (name: string): string =>
    `CREATE TABLE Chat_${hash(name)}(TableVer INTEGER, MesLocalID INTEGER PRIMARY KEY AUTOINCREMENT, MesSvrID INTEGER, CreateTime INTEGER, Message TEXT, Status INTEGER, ImgStatus INTEGER, Type INTEGER, Des INTEGER);`;
  const insert = (name: string, at: number, text: string, type: number, des: number): string =>
    `INSERT INTO Chat_${hash(name)}(TableVer,MesSvrID,CreateTime,Message,Status,ImgStatus,Type,Des) VALUES(1,1,${at},'${text}',3,0,${type},${des});`;
  const group = '8812@chatroom';
  const result = await read(
    `CREATE TABLE Friend(UsrName TEXT PRIMARY KEY, NickName TEXT); INSERT INTO Friend VALUES('tilda_77','Tilda'),('${group}','Crew');` +
      table('tilda_77') +
      table(group) +
      insert('tilda_77', T, 'hi', 1, 1) +
      insert('tilda_77', T + 1, 'ho', 1, 0) +
      insert(
        'tilda_77',
        T + 2,
        '<msg><appmsg appid=""><title>Tide table</title><des>for May &amp; June</des></appmsg></msg>',
        49,
        1
      ) +
      insert(group, T + 3, 'ansel_5:\nall of you', 1, 1) +
      insert(group, T + 4, 'Birk joined', 10000, 1)
  );
  assert.deepEqual(lines(result), [
    '2026-05-01T12:00:00 incoming tilda_77 [tilda_77] hi',
    '2026-05-01T12:00:01 outgoing me [tilda_77] ho',
    '2026-05-01T12:00:02 incoming tilda_77 [tilda_77] Tide table\nfor May & June',
    `2026-05-01T12:00:03 incoming ansel_5 [${group}] all of you`,
    `2026-05-01T12:00:04 system - [${group}] Birk joined`
  ]);
});

test('desktop caller: the owner by the account, markup as text, transfers, calls', async () => {
  const result = await read(
    `CREATE TABLE Accounts(id INTEGER PRIMARY KEY, signin_name TEXT, fullname TEXT); INSERT INTO Accounts VALUES(1,'owner.desk','Owner');
     CREATE TABLE Conversations(id INTEGER PRIMARY KEY, identity TEXT, displayname TEXT, type INTEGER); INSERT INTO Conversations VALUES(5,'tilda.roe','Tilda Roe',1),(6,'#crew/1','Crew',2);
     CREATE TABLE Participants(id INTEGER PRIMARY KEY, convo_id INTEGER, identity TEXT); INSERT INTO Participants VALUES(1,5,'tilda.roe'),(2,5,'owner.desk'),(3,6,'tilda.roe'),(4,6,'ansel'),(5,6,'owner.desk');
     CREATE TABLE Messages(id INTEGER PRIMARY KEY, convo_id INTEGER, author TEXT, from_dispname TEXT, timestamp INTEGER, type INTEGER, body_xml TEXT, guid BLOB, edited_timestamp INTEGER);
     INSERT INTO Messages VALUES(1,5,'tilda.roe','Tilda Roe',${T},61,'it&apos;s <ss type="smile">:)</ss> on',x'01',NULL),(2,5,'owner.desk','Owner',${T + 1},61,'good',x'02',NULL),(3,6,'ansel','Ansel',${T + 2},61,'all',x'03',NULL),(4,5,'tilda.roe','Tilda Roe',${T + 3},68,'<files alt="chart"></files>',x'04',NULL);
     CREATE TABLE Transfers(id INTEGER PRIMARY KEY, chatmsg_guid BLOB, filename TEXT, filepath TEXT, filesize TEXT); INSERT INTO Transfers VALUES(1,x'04','chart.pdf','C:\\Users\\o\\Downloads\\chart.pdf','4');
     CREATE TABLE Calls(id INTEGER PRIMARY KEY, begin_timestamp INTEGER, duration INTEGER, is_incoming INTEGER, conv_dbid INTEGER, host_identity TEXT); INSERT INTO Calls VALUES(1,${T},60,1,5,'tilda.roe'),(2,${T},NULL,1,5,'tilda.roe');`,
    { 'Users/o/Downloads/chart.pdf': Buffer.from('%PDF') }
  );
  assert.deepEqual(lines(result), [
    "2026-05-01T12:00:00 incoming tilda.roe [tilda.roe] it's :) on",
    '2026-05-01T12:00:01 outgoing me [tilda.roe] good',
    '2026-05-01T12:00:02 incoming ansel [Crew] all',
    '2026-05-01T12:00:03 incoming tilda.roe [tilda.roe] '
  ]);
  assert.equal(result.findings.attachments[0]!.path, 'Users/o/Downloads/chart.pdf');
  assert.deepEqual(
    result.findings.calls.map(({ direction, seconds }) => [direction, seconds]),
    [
      ['incoming', 60],
      ['missed', null]
    ]
  );
});

test('contacts and call logs, each in the forms that they have', async () => {
  const contacts = await read(
    `CREATE TABLE raw_contacts(_id INTEGER PRIMARY KEY, contact_id INTEGER, display_name TEXT, deleted INTEGER DEFAULT 0);
     CREATE TABLE mimetypes(_id INTEGER PRIMARY KEY, mimetype TEXT); INSERT INTO mimetypes VALUES(1,'vnd.android.cursor.item/phone_v2'),(2,'vnd.android.cursor.item/email_v2'),(3,'vnd.android.cursor.item/organization');
     CREATE TABLE data(_id INTEGER PRIMARY KEY, mimetype_id INTEGER, raw_contact_id INTEGER, data1 TEXT);
     INSERT INTO raw_contacts VALUES(1,1,'Tilda Roe',0),(2,2,'Gone',1);
     INSERT INTO data VALUES(1,1,1,'07700 900123'),(2,2,1,'t@mail.example'),(3,3,1,'Harbour'),(4,1,2,'1');`
  );
  assert.deepEqual(
    contacts.findings.contacts.map(({ name, phones, emails, organisation }) => ({
      name,
      phones,
      emails,
      organisation
    })),
    [
      {
        name: 'Tilda Roe',
        phones: ['07700 900123'],
        emails: ['t@mail.example'],
        organisation: 'Harbour'
      }
    ]
  );
  const persons = await read(
    `CREATE TABLE ABPerson(ROWID INTEGER PRIMARY KEY, First TEXT, Middle TEXT, Last TEXT, Organization TEXT, Note TEXT, Nickname TEXT);
     CREATE TABLE ABMultiValue(UID INTEGER PRIMARY KEY, record_id INTEGER, property INTEGER, value TEXT);
     INSERT INTO ABPerson VALUES(1,'Ansel',NULL,'Dahl',NULL,'pilot',NULL); INSERT INTO ABMultiValue VALUES(1,1,3,'+47 21 00 00 00'),(2,1,4,'a@mail.example');`
  );
  const [ansel] = persons.findings.contacts;
  assert.deepEqual(
    [ansel!.name, ansel!.phones, ansel!.note],
    ['Ansel Dahl', ['+47 21 00 00 00'], 'pilot']
  );
  const cases: [string, string][] = [
    [
      'table',
      `CREATE TABLE calls(_id INTEGER PRIMARY KEY, number TEXT, date INTEGER, duration INTEGER, type INTEGER, name TEXT); INSERT INTO calls VALUES(1,'+447700900123',${T}000,5,2,'Tilda'),(2,'+447700900123',${T + 1}000,0,3,'Tilda');`
    ],
    [
      'records',
      `CREATE TABLE ZCALLRECORD(Z_PK INTEGER PRIMARY KEY, ZDATE TIMESTAMP, ZDURATION FLOAT, ZORIGINATED INTEGER, ZANSWERED INTEGER, ZADDRESS BLOB, ZNAME TEXT); INSERT INTO ZCALLRECORD VALUES(1,${SINCE_2001},5,1,1,CAST('+447700900123' AS BLOB),NULL),(2,${SINCE_2001 + 1},0,0,0,CAST('+447700900123' AS BLOB),NULL);`
    ],
    [
      'flags',
      `CREATE TABLE call(ROWID INTEGER PRIMARY KEY, address TEXT, date INTEGER, duration INTEGER, flags INTEGER); INSERT INTO call VALUES(1,'+447700900123',${T},5,5),(2,'+447700900123',${T + 1},0,4);`
    ]
  ];
  for (const [label, sql] of cases) {
    const { findings } = await read(sql);
    assert.deepEqual(
      findings.calls.map(({ at, seconds, direction, person }) => [at, seconds, direction, person]),
      [
        [T * 1000, 5, 'outgoing', 'p:+447700900123'],
        [(T + 1) * 1000, 0, 'missed', 'p:+447700900123']
      ],
      label
    );
  }
});

/** An archived attributed string with its length in one byte. */
function typedStream(text: string): Buffer {
  const bytes = Buffer.from(text);
  return Buffer.concat([
    Buffer.from('\x04\x0bstreamtyped', 'latin1'),
    Buffer.from('NSString'),
    Buffer.from([1, 0x94, 0x84, 1, 0x2b, bytes.length]),
    bytes,
    Buffer.from([0x86, 0x84])
  ]);
}

test('handle–chat: held, edited, reacted to, replied to, named groups', async () => {
  const edits = binaryPlist({
    ec: {
      '0': [
        { t: typedStream('at eihgt'), d: SINCE_2001 + 1 },
        { t: typedStream('at eight'), d: SINCE_2001 + 2 }
      ]
    }
  });
  const bytes = makeDatabase((db) => {
    db.run(`CREATE TABLE message(ROWID INTEGER PRIMARY KEY, guid TEXT, text TEXT, attributedBody BLOB, handle_id INTEGER, date INTEGER, is_from_me INTEGER, item_type INTEGER DEFAULT 0, thread_originator_guid TEXT, associated_message_guid TEXT, associated_message_type INTEGER DEFAULT 0, message_summary_info BLOB);
      CREATE TABLE handle(ROWID INTEGER PRIMARY KEY, id TEXT); INSERT INTO handle VALUES(1,'+447700900123'),(2,'+447700900124');
      CREATE TABLE chat(ROWID INTEGER PRIMARY KEY, guid TEXT, chat_identifier TEXT, display_name TEXT, room_name TEXT); INSERT INTO chat VALUES(1,'c1','+447700900123',NULL,NULL),(2,'c2','chat88','Crew','chat88');
      CREATE TABLE chat_message_join(chat_id INTEGER, message_id INTEGER, message_date INTEGER);
      CREATE TABLE chat_recoverable_message_join(chat_id INTEGER, message_id INTEGER, delete_date INTEGER);
      CREATE TABLE chat_handle_join(chat_id INTEGER, handle_id INTEGER); INSERT INTO chat_handle_join VALUES(1,1),(2,1),(2,2);`);
    const ns = (n: number): string => `${SINCE_2001 + n}000000000`;
    const insert = (id: number, columns: string, values: string): unknown =>
      db.run(
        `INSERT INTO message(ROWID, guid, date, ${columns}) VALUES(${id}, 'g${id}', ${ns(id)}, ${values})`
      );
    insert(1, 'text, handle_id, is_from_me', `'when', 1, 0`);
    db.run(
      `INSERT INTO message(ROWID, guid, date, text, handle_id, is_from_me, message_summary_info, thread_originator_guid) VALUES(2,'g2',${ns(2)},'at eight',1,1,?,'g1')`,
      [edits]
    );
    insert(
      3,
      'handle_id, is_from_me, associated_message_guid, associated_message_type',
      `1, 0, 'p:0/g2', 2001`
    );
    insert(4, 'text, handle_id, is_from_me', `'to all', 2, 0`);
    insert(5, 'text, handle_id, is_from_me', `'thrown away', 1, 0`);
    db.run(`INSERT INTO chat_message_join VALUES(1,1,${ns(1)}),(1,2,${ns(2)}),(1,3,${ns(3)}),(2,4,${ns(4)});
      INSERT INTO chat_recoverable_message_join VALUES(1,5,${ns(86400)});`);
  });
  const { findings, ...rest } = await passOver({ 'store.db': bytes });
  assert.deepEqual(lines({ findings, ...rest }), [
    '2026-05-01T12:00:01 incoming +447700900123 [+447700900123] when',
    '2026-05-01T12:00:01 outgoing me [+447700900123] at eihgt',
    '2026-05-01T12:00:02 outgoing me [+447700900123] at eight',
    '2026-05-01T12:00:04 incoming +447700900124 [Crew] to all',
    '2026-05-01T12:00:05 incoming +447700900123 [+447700900123] thrown away'
  ]);
  const [when, earlier, eight, , held] = findings.messages;
  assert.deepEqual([earlier!.state, earlier!.replaces], ['earlier', eight!.id]);
  assert.deepEqual([eight!.replyTo, eight!.reactions[0]!.text], [when!.id, 'thumbs up']);
  assert.equal(held!.state, 'held');
  assert.equal(held!.purgeAt, (T + 86400 + 30 * 86400) * 1000);
});

test('a message that was edited or taken back says when', async () => {
  const bytes = makeDatabase((db) =>
    db.run(`CREATE TABLE message(ROWID INTEGER PRIMARY KEY, guid TEXT, text TEXT, handle_id INTEGER, date INTEGER, is_from_me INTEGER, date_edited INTEGER DEFAULT 0, date_retracted INTEGER DEFAULT 0);
      CREATE TABLE handle(ROWID INTEGER PRIMARY KEY, id TEXT); INSERT INTO handle VALUES(1,'+447700900123');
      INSERT INTO message VALUES(1,'g1','as sent',1,${SINCE_2001}000000000,0,0,0),
        (2,'g2','put right',1,${SINCE_2001 + 1}000000000,0,${SINCE_2001 + 9}000000000,0),
        (3,'g3','never mind',1,${SINCE_2001 + 2}000000000,0,0,${SINCE_2001 + 8}000000000);`)
  );
  const { findings } = await passOver({ 'store.db': bytes });
  const reasons = findings.messages.map((message) => message.reasons.slice(1));
  assert.deepEqual(reasons, [
    [],
    ['edited at 2026-05-01T12:00:09.000Z'],
    ['its writer took it back at 2026-05-01T12:00:08.000Z']
  ]);
});
