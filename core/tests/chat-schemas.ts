import type { Database as SqlJs } from 'sql.js';
import { makeDatabase } from './databases';
import { seeded } from './telephony';

/** A message as it really was, to be found again whatever the tables. */
export interface Said {
  room: number;
  /** 0 is the owner. */
  who: number;
  at: number;
  text: string;
}

const PEOPLE = ['owner', 'tilda', 'ansel', 'birk', 'corin', 'dagny'];
/** Members of each conversation beside the owner. */
export const ROOMS = [[1], [2], [3], [1, 2, 4], [5]];

const WORDS =
  'the tide boat quay seven yes no maybe shed key bring tea lamp rope dawn over there please thanks wind north again later soon who what'.split(
    ' '
  );

/** Conversations of about a thousand messages. */
export function talk(seed: number, count = 900): Said[] {
  const random = seeded(seed);
  let at = Date.UTC(2025, 8, 1, 7);
  return Array.from({ length: count }, () => {
    at += Math.floor(random() * 3_600_000) + 1000;
    const room = Math.floor(random() * ROOMS.length);
    const members = [0, ...ROOMS[room]!];
    const who = members[Math.floor(random() * members.length)]!;
    const length = 1 + Math.floor(random() * 12);
    const words = Array.from({ length }, () => WORDS[Math.floor(random() * WORDS.length)]!);
    return { room, who, at, text: `${words.join(' ')}${random() < 0.3 ? '?' : '.'}` };
  });
}

export interface ChatSchema {
  label: string;
  make: (said: Said[]) => Uint8Array;
}

function schema(label: string, sql: string, fill: (db: SqlJs, said: Said[]) => void): ChatSchema {
  return {
    label,
    make: (said) =>
      makeDatabase((db) => {
        db.run(sql);
        db.run('BEGIN');
        fill(db, said);
        db.run('COMMIT');
      })
  };
}

const jid = (who: number): string => `${PEOPLE[who]}@chat.example`;
const peerOf = (said: Said): number => ROOMS[said.room]![0]!;
const isGroup = (room: number): boolean => ROOMS[room]!.length > 1;
const roomJid = (room: number): string =>
  isGroup(room) ? `room${room}@rooms.example` : jid(ROOMS[room]![0]!);

/** Schemas after the manner of many chat clients; each keeps the same conversations in its own way. */
export const CHAT_SCHEMAS: ChatSchema[] = [
  schema(
    'conversations by uuid, status tells who wrote',
    `CREATE TABLE accounts(uuid TEXT PRIMARY KEY, username TEXT, server TEXT, options NUMBER);
     CREATE TABLE conversations(uuid TEXT PRIMARY KEY, name TEXT, contactUuid TEXT, accountUuid TEXT, contactJid TEXT, created NUMBER, status NUMBER, mode NUMBER);
     CREATE TABLE messages(uuid TEXT PRIMARY KEY, conversationUuid TEXT, timeSent NUMBER, counterpart TEXT, trueCounterpart TEXT, body TEXT, encryption NUMBER, status NUMBER, type NUMBER, relativeFilePath TEXT, serverMsgId TEXT, carbon INTEGER, outgoing INTEGER, read NUMBER DEFAULT 1);`,
    (db, said) => {
      db.run(`INSERT INTO accounts VALUES('acc-0000-1111','owner','chat.example',1)`);
      ROOMS.forEach((_, r) =>
        db.run('INSERT INTO conversations VALUES(?,?,NULL,?,?,1,0,?)', [
          `conv-${r}-aaaa-bbbb`,
          `Room ${r}`,
          'acc-0000-1111',
          roomJid(r),
          isGroup(r) ? 1 : 0
        ])
      );
      said.forEach((s, i) => {
        const counterpart = isGroup(s.room)
          ? `${roomJid(s.room)}/${PEOPLE[s.who]}`
          : roomJid(s.room);
        db.run('INSERT INTO messages VALUES(?,?,?,?,NULL,?,0,?,0,NULL,?,0,?,1)', [
          `m-${i}-cafe-${i * 7}`,
          `conv-${s.room}-aaaa-bbbb`,
          s.at,
          counterpart,
          s.text,
          s.who === 0 ? 7 : 0,
          `s${i}`,
          s.who === 0 ? 1 : 0
        ]);
      });
    }
  ),
  schema(
    'jid table, integer direction, seconds',
    `CREATE TABLE jid(id INTEGER PRIMARY KEY, bare_jid TEXT UNIQUE NOT NULL);
     CREATE TABLE account(id INTEGER PRIMARY KEY, bare_jid TEXT, resourcepart TEXT, alias TEXT, enabled INTEGER);
     CREATE TABLE message(id INTEGER PRIMARY KEY, stanza_id TEXT, server_id TEXT, account_id INTEGER NOT NULL, counterpart_id INTEGER NOT NULL, counterpart_resource TEXT, our_resource TEXT, direction INTEGER NOT NULL, type INTEGER, time INTEGER, local_time INTEGER, body TEXT, encryption INTEGER, marked INTEGER);`,
    (db, said) => {
      db.run(`INSERT INTO account VALUES(1,'owner@chat.example','desk','',1)`);
      ROOMS.forEach((_, r) => db.run('INSERT INTO jid VALUES(?,?)', [r + 10, roomJid(r)]));
      said.forEach((s, i) =>
        db.run('INSERT INTO message VALUES(?,?,NULL,1,?,?,?,?,?,?,?,?,0,3)', [
          i + 1,
          `st${i}`,
          s.room + 10,
          isGroup(s.room) ? PEOPLE[s.who]! : 'phone',
          'desk',
          s.who === 0 ? 1 : 0,
          1,
          Math.floor(s.at / 1000),
          Math.floor(s.at / 1000) + (i % 3),
          s.text
        ])
      );
    }
  ),
  schema(
    'contacts with one row for the owner, chats with members',
    `CREATE TABLE contacts(id INTEGER PRIMARY KEY, name TEXT DEFAULT '', addr TEXT, origin INTEGER, blocked INTEGER, last_seen INTEGER);
     CREATE TABLE chats(id INTEGER PRIMARY KEY, type INTEGER, name TEXT, grpid TEXT, created_timestamp INTEGER);
     CREATE TABLE chats_contacts(chat_id INTEGER, contact_id INTEGER);
     CREATE TABLE msgs(id INTEGER PRIMARY KEY, rfc724_mid TEXT, server_folder TEXT, chat_id INTEGER, from_id INTEGER, to_id INTEGER, timestamp INTEGER, type INTEGER, state INTEGER, txt TEXT, param TEXT, bytes INTEGER, timestamp_sent INTEGER, timestamp_rcvd INTEGER, hidden INTEGER);`,
    (db, said) => {
      PEOPLE.forEach((name, i) =>
        db.run('INSERT INTO contacts VALUES(?,?,?,1,0,0)', [
          i === 0 ? 1 : i + 9,
          i === 0 ? '' : name,
          `${name}@mail.example`
        ])
      );
      ROOMS.forEach((members, r) => {
        db.run('INSERT INTO chats VALUES(?,?,?,?,1)', [
          r + 10,
          isGroup(r) ? 120 : 100,
          isGroup(r) ? 'Crew' : PEOPLE[members[0]!]!,
          isGroup(r) ? 'g1' : ''
        ]);
        for (const m of members) db.run('INSERT INTO chats_contacts VALUES(?,?)', [r + 10, m + 9]);
      });
      said.forEach((s, i) =>
        db.run(`INSERT INTO msgs VALUES(?,?,'INBOX',?,?,?,?,10,?,?,'',0,?,?,0)`, [
          i + 10,
          `mid${i}@mail.example`,
          s.room + 10,
          s.who === 0 ? 1 : s.who + 9,
          s.who === 0 ? peerOf(s) + 9 : 1,
          Math.floor(s.at / 1000),
          s.who === 0 ? 26 : 16,
          s.text,
          Math.floor(s.at / 1000),
          Math.floor(s.at / 1000)
        ])
      );
    }
  ),
  schema(
    'from and to in one table',
    `CREATE TABLE jids(id INTEGER PRIMARY KEY, jid TEXT);
     CREATE TABLE messages(message TEXT, fromBare INTEGER, fromResource TEXT, toBare INTEGER, toResource TEXT, type INTEGER, time INTEGER, offset INTEGER);`,
    (db, said) => {
      PEOPLE.forEach((_, i) => db.run('INSERT INTO jids VALUES(?,?)', [i + 1, jid(i)]));
      said
        .filter((s) => !isGroup(s.room))
        .forEach((s) => {
          const [from, to] = s.who === 0 ? [0, peerOf(s)] : [s.who, 0];
          db.run('INSERT INTO messages VALUES(?,?,NULL,?,NULL,0,?,0)', [
            s.text,
            from + 1,
            to + 1,
            Math.floor(s.at / 1000)
          ]);
        });
    }
  ),
  schema(
    'backlog with senders and buffers',
    `CREATE TABLE sender(senderid INTEGER PRIMARY KEY, sender TEXT UNIQUE);
     CREATE TABLE buffer(bufferid INTEGER PRIMARY KEY, userid INTEGER, networkid INTEGER, buffername TEXT, buffercname TEXT, buffertype INTEGER);
     CREATE TABLE backlog(messageid INTEGER PRIMARY KEY, time INTEGER, bufferid INTEGER, type INTEGER, flags INTEGER, senderid INTEGER, senderprefixes TEXT, message TEXT);`,
    (db, said) => {
      PEOPLE.forEach((name, i) =>
        db.run('INSERT INTO sender VALUES(?,?)', [i + 1, `${name}!~u@host.example`])
      );
      ROOMS.forEach((members, r) => {
        const name = isGroup(r) ? '#crew' : PEOPLE[members[0]!]!;
        db.run('INSERT INTO buffer VALUES(?,1,1,?,?,?)', [r + 1, name, name, isGroup(r) ? 2 : 4]);
      });
      said.forEach((s, i) =>
        db.run(`INSERT INTO backlog VALUES(?,?,?,1,?,?,'',?)`, [
          i + 1,
          s.at,
          s.room + 1,
          s.who === 0 ? 1 : 0,
          s.who + 1,
          s.text
        ])
      );
    }
  ),
  schema(
    'threads and recipients, kinds as bit masks',
    `CREATE TABLE recipient(_id INTEGER PRIMARY KEY, e164 TEXT, aci TEXT, system_joined_name TEXT, profile_joined_name TEXT, blocked INTEGER);
     CREATE TABLE thread(_id INTEGER PRIMARY KEY, date INTEGER, meaningful_messages INTEGER, recipient_id INTEGER REFERENCES recipient(_id), read INTEGER, snippet TEXT, snippet_type INTEGER);
     CREATE TABLE message(_id INTEGER PRIMARY KEY, date_sent INTEGER NOT NULL, date_received INTEGER NOT NULL, date_server INTEGER, thread_id INTEGER NOT NULL REFERENCES thread(_id), from_recipient_id INTEGER NOT NULL REFERENCES recipient(_id), to_recipient_id INTEGER NOT NULL REFERENCES recipient(_id), type INTEGER, body TEXT, read INTEGER, m_type INTEGER, expires_in INTEGER);`,
    (db, said) => {
      PEOPLE.forEach((name, i) =>
        db.run('INSERT INTO recipient VALUES(?,?,?,?,?,0)', [
          i + 1,
          `+4477009001${10 + i}`,
          `aci-${i}-0000-beef`,
          name,
          name
        ])
      );
      db.run(`INSERT INTO recipient VALUES(50,NULL,NULL,'Crew','Crew',0)`);
      ROOMS.forEach((members, r) =>
        db.run(`INSERT INTO thread VALUES(?,?,9,?,1,'last words here',20)`, [
          r + 1,
          1_760_000_000_000 + r,
          isGroup(r) ? 50 : members[0]! + 1
        ])
      );
      said.forEach((s, i) => {
        const to = s.who === 0 ? (isGroup(s.room) ? 50 : peerOf(s) + 1) : 1;
        db.run('INSERT INTO message VALUES(?,?,?,?,?,?,?,?,?,1,NULL,0)', [
          i + 1,
          s.at,
          s.at + 40 + (i % 900),
          s.at + 20,
          s.room + 1,
          s.who + 1,
          to,
          s.who === 0 ? 10485783 : 10485780,
          s.text
        ]);
      });
    }
  ),
  schema(
    'author and body as markup, one owner account',
    `CREATE TABLE Profile(id INTEGER PRIMARY KEY, signin TEXT, fullname TEXT);
     CREATE TABLE Dialogs(id INTEGER PRIMARY KEY, identity TEXT, caption TEXT, kind INTEGER);
     CREATE TABLE Entries(id INTEGER PRIMARY KEY, dialog_id INTEGER, author TEXT, author_name TEXT, created_at TEXT, body_html TEXT, edited_at TEXT);`,
    (db, said) => {
      db.run(`INSERT INTO Profile VALUES(1,'live:owner','Owner')`);
      ROOMS.forEach((members, r) =>
        db.run('INSERT INTO Dialogs VALUES(?,?,?,1)', [
          r + 1,
          isGroup(r) ? `#thread/${r}` : `live:${PEOPLE[members[0]!]!}`,
          `Talk ${r}`
        ])
      );
      said.forEach((s, i) =>
        db.run('INSERT INTO Entries VALUES(?,?,?,?,?,?,NULL)', [
          i + 1,
          s.room + 1,
          `live:${PEOPLE[s.who]!}`,
          PEOPLE[s.who]!,
          new Date(s.at).toISOString(),
          `<p>${s.text}</p>`
        ])
      );
    }
  ),
  schema(
    'content, event and addresses in tables of their own',
    `CREATE TABLE sip_address(id INTEGER PRIMARY KEY, value TEXT, display_name TEXT);
     CREATE TABLE chat_room(id INTEGER PRIMARY KEY, peer_sip_address_id INTEGER REFERENCES sip_address(id), local_sip_address_id INTEGER REFERENCES sip_address(id), subject TEXT);
     CREATE TABLE event(id INTEGER PRIMARY KEY, type INTEGER, creation_time INTEGER);
     CREATE TABLE chat_message_event(event_id INTEGER PRIMARY KEY REFERENCES event(id), chat_room_id INTEGER REFERENCES chat_room(id), from_sip_address_id INTEGER REFERENCES sip_address(id), to_sip_address_id INTEGER REFERENCES sip_address(id), time INTEGER, state INTEGER, direction INTEGER);
     CREATE TABLE chat_message_content(id INTEGER PRIMARY KEY, event_id INTEGER REFERENCES chat_message_event(event_id), content_type_id INTEGER, body TEXT);`,
    (db, said) => {
      PEOPLE.forEach((name, i) =>
        db.run('INSERT INTO sip_address VALUES(?,?,?)', [i + 1, `sip:${name}@sip.example`, name])
      );
      ROOMS.forEach((members, r) =>
        db.run('INSERT INTO chat_room VALUES(?,?,1,?)', [
          r + 1,
          members[0]! + 1,
          isGroup(r) ? 'Crew' : null
        ])
      );
      said.forEach((s, i) => {
        db.run('INSERT INTO event VALUES(?,5,?)', [i + 100, Math.floor(s.at / 1000)]);
        db.run('INSERT INTO chat_message_event VALUES(?,?,?,?,?,2,?)', [
          i + 100,
          s.room + 1,
          s.who + 1,
          s.who === 0 ? peerOf(s) + 1 : 1,
          Math.floor(s.at / 1000),
          s.who === 0 ? 1 : 0
        ]);
        db.run('INSERT INTO chat_message_content VALUES(?,?,1,?)', [i + 1, i + 100, s.text]);
      });
    }
  ),
  schema(
    'direction in words, times in microseconds since 1601',
    `CREATE TABLE buddies(key TEXT PRIMARY KEY, nickname TEXT, phone TEXT);
     CREATE TABLE history(n INTEGER PRIMARY KEY, buddy TEXT, way TEXT, stamp INTEGER, words TEXT, seen INTEGER);`,
    (db, said) => {
      PEOPLE.forEach((name, i) =>
        db.run('INSERT INTO buddies VALUES(?,?,?)', [
          `bk-${name}-000${i}`,
          name,
          `+4477009002${10 + i}`
        ])
      );
      said
        .filter((s) => !isGroup(s.room))
        .forEach((s, i) =>
          db.run(`INSERT INTO history VALUES(?,?,?,CAST(? AS INTEGER),?,1)`, [
            i + 1,
            `bk-${PEOPLE[peerOf(s)]!}-000${peerOf(s)}`,
            s.who === 0 ? 'out' : 'in',
            String((BigInt(s.at) + 11_644_473_600_000n) * 1000n),
            s.text
          ])
        );
    }
  ),
  schema(
    'object store with seconds since 2001',
    `CREATE TABLE ZUSER(Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZNICKNAME TEXT, ZISME INTEGER);
     CREATE TABLE ZROOM(Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZTITLE TEXT);
     CREATE TABLE Z_2MEMBERS(Z_2ROOMS INTEGER, Z_3MEMBERS INTEGER, PRIMARY KEY(Z_2ROOMS, Z_3MEMBERS));
     CREATE TABLE ZNOTE(Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZROOM INTEGER, ZAUTHOR INTEGER, ZCREATEDAT TIMESTAMP, ZREADAT TIMESTAMP, ZTEXT VARCHAR);`,
    (db, said) => {
      PEOPLE.forEach((name, i) =>
        db.run('INSERT INTO ZUSER VALUES(?,3,1,?,?)', [i + 1, name, i === 0 ? 1 : 0])
      );
      ROOMS.forEach((members, r) => {
        db.run('INSERT INTO ZROOM VALUES(?,2,1,?)', [r + 1, `Room ${r}`]);
        for (const m of members) db.run('INSERT INTO Z_2MEMBERS VALUES(?,?)', [r + 1, m + 1]);
      });
      said.forEach((s, i) =>
        db.run('INSERT INTO ZNOTE VALUES(?,4,1,?,?,?,NULL,?)', [
          i + 1,
          s.room + 1,
          s.who + 1,
          s.at / 1000 - 978_307_200,
          s.text
        ])
      );
    }
  ),
  schema(
    'kinds for in and out, real seconds',
    `CREATE TABLE jids(jid_id INTEGER PRIMARY KEY AUTOINCREMENT UNIQUE, jid TEXT UNIQUE, type INTEGER);
     CREATE TABLE logs(log_line_id INTEGER PRIMARY KEY AUTOINCREMENT UNIQUE, account_id INTEGER, jid_id INTEGER, contact_name TEXT, time REAL, kind INTEGER, show INTEGER, message TEXT, subject TEXT, additional_data TEXT);`,
    (db, said) => {
      ROOMS.forEach((_, r) =>
        db.run('INSERT INTO jids VALUES(?,?,?)', [r + 1, roomJid(r), isGroup(r) ? 1 : 0])
      );
      said.forEach((s, i) => {
        const kind = isGroup(s.room) ? 2 : s.who === 0 ? 6 : 4;
        db.run('INSERT INTO logs VALUES(?,1,?,?,?,?,NULL,?,NULL,NULL)', [
          i + 1,
          s.room + 1,
          isGroup(s.room) ? PEOPLE[s.who]! : null,
          s.at / 1000,
          kind,
          s.text
        ]);
      });
    }
  ),
  schema(
    'numbers and boxes',
    `CREATE TABLE texts(id INTEGER PRIMARY KEY, phone_number TEXT, sent_on INTEGER, box INTEGER, content TEXT, seen INTEGER);`,
    (db, said) => {
      said
        .filter((s) => !isGroup(s.room))
        .forEach((s, i) =>
          db.run('INSERT INTO texts VALUES(?,?,?,?,?,1)', [
            i + 1,
            `+4477009003${10 + peerOf(s)}`,
            s.at,
            s.who === 0 ? 2 : 1,
            s.text
          ])
        );
    }
  ),
  schema(
    'threads, users, direction below and above zero',
    `CREATE TABLE users(id INTEGER PRIMARY KEY, username TEXT, alias TEXT, type INTEGER);
     CREATE TABLE threads(id INTEGER PRIMARY KEY, name TEXT, alias TEXT, account_id INTEGER, type INTEGER);
     CREATE TABLE thread_members(id INTEGER PRIMARY KEY, thread_id INTEGER REFERENCES threads(id), user_id INTEGER REFERENCES users(id));
     CREATE TABLE messages(id INTEGER PRIMARY KEY, uid TEXT, thread_id INTEGER REFERENCES threads(id), sender_id INTEGER REFERENCES users(id), user_alias TEXT, body TEXT, body_type INTEGER, direction INTEGER, time INTEGER, status INTEGER);`,
    (db, said) => {
      PEOPLE.forEach((name, i) =>
        db.run('INSERT INTO users VALUES(?,?,?,1)', [i + 1, `@${name}:matrix.example`, name])
      );
      ROOMS.forEach((members, r) => {
        db.run('INSERT INTO threads VALUES(?,?,?,1,?)', [
          r + 1,
          `!room${r}:matrix.example`,
          isGroup(r) ? 'Crew' : PEOPLE[members[0]!]!,
          isGroup(r) ? 1 : 0
        ]);
        for (const m of members)
          db.run('INSERT INTO thread_members(thread_id, user_id) VALUES(?,?)', [r + 1, m + 1]);
      });
      said.forEach((s, i) =>
        db.run('INSERT INTO messages VALUES(?,?,?,?,NULL,?,1,?,?,0)', [
          i + 1,
          `uid-${i}-${i * 31}`,
          s.room + 1,
          s.who === 0 ? null : s.who + 1,
          s.text,
          s.who === 0 ? -1 : 1,
          Math.floor(s.at / 1000)
        ])
      );
    }
  ),
  schema(
    'interactions with authors and conversations',
    `CREATE TABLE profiles(uri TEXT NOT NULL PRIMARY KEY, alias TEXT, photo TEXT, type TEXT);
     CREATE TABLE conversations(id INTEGER, participant TEXT, extra_data TEXT);
     CREATE TABLE interactions(id INTEGER PRIMARY KEY, author TEXT, conversation INTEGER, timestamp INTEGER, body TEXT, type TEXT, status TEXT, is_read INTEGER, daemon_id BIGINT, extra_data TEXT);`,
    (db, said) => {
      PEOPLE.forEach(
        (name, i) =>
          i > 0 &&
          db.run('INSERT INTO profiles VALUES(?,?,NULL,?)', [
            `f00d${i}c0ffee000000${i}`,
            name,
            'RING'
          ])
      );
      ROOMS.forEach((members, r) =>
        members.forEach((m) =>
          db.run('INSERT INTO conversations VALUES(?,?,NULL)', [r + 1, `f00d${m}c0ffee000000${m}`])
        )
      );
      said.forEach((s, i) =>
        db.run(`INSERT INTO interactions VALUES(?,?,?,?,?,'TEXT',?,1,NULL,NULL)`, [
          i + 1,
          s.who === 0 ? null : `f00d${s.who}c0ffee000000${s.who}`,
          s.room + 1,
          Math.floor(s.at / 1000),
          s.text,
          s.who === 0 ? 'SUCCESS' : 'UNKNOWN'
        ])
      );
    }
  ),
  schema(
    'groups in a table of their own, with a search index',
    `CREATE TABLE friends(id INTEGER PRIMARY KEY, nick TEXT, email TEXT);
     CREATE TABLE groups(id INTEGER PRIMARY KEY, title TEXT);
     CREATE TABLE direct_messages(id INTEGER PRIMARY KEY, friend_id INTEGER REFERENCES friends(id), is_outgoing INTEGER, sent_at INTEGER, text TEXT);
     CREATE TABLE group_messages(id INTEGER PRIMARY KEY, group_id INTEGER REFERENCES groups(id), sender_id INTEGER REFERENCES friends(id), is_outgoing INTEGER, sent_at INTEGER, text TEXT);
     CREATE TABLE search_content(docid INTEGER PRIMARY KEY, c0text TEXT, c1sent_at INTEGER, c2friend_id INTEGER);`,
    (db, said) => {
      PEOPLE.forEach(
        (name, i) =>
          i > 0 && db.run('INSERT INTO friends VALUES(?,?,?)', [i, name, `${name}@mail.example`])
      );
      db.run(`INSERT INTO groups VALUES(4,'Crew')`);
      said.forEach((s, i) => {
        const own = s.who === 0 ? 1 : 0;
        if (isGroup(s.room))
          db.run('INSERT INTO group_messages VALUES(?,?,?,?,?,?)', [
            i + 1,
            4,
            own ? null : s.who,
            own,
            s.at,
            s.text
          ]);
        else
          db.run('INSERT INTO direct_messages VALUES(?,?,?,?,?)', [
            i + 1,
            peerOf(s),
            own,
            s.at,
            s.text
          ]);
      });
    }
  )
];
