import type { Database as SqlJs, SqlValue as Stored } from 'sql.js';
import { makeDatabase } from '../databases';
import { seeded } from '../telephony';

/** A table of something that is no conversation. */
interface Other {
  label: string;
  sql: string;
  /** Values of row `i`; null leaves it out. */
  row: (i: number, any: Any) => Stored[];
  rows?: number;
}

interface Any {
  pick: <T>(list: readonly T[]) => T;
  number: (below: number) => number;
  /** Words in a row, as in a title or a sentence. */
  words: (count: number) => string;
  title: () => string;
  name: () => string;
  company: () => string;
  /** Milliseconds since 1970. */
  at: (i: number) => number;
  phone: (n: number) => string;
}

const WORDS =
  'harbour boat how to mend a small engine before winter the best rope for wet days open letter on fish market prices tide table lamp oil and what it costs storm warning north quay'.split(
    ' '
  );
const FIRST = 'Tilda Ansel Birk Corin Dagny Edda Falk Gerda Hauke Inge Jonas Kalle'.split(' ');
const LAST = 'Marsh Holm Vik Strand Berg Lund Dahl Noor Quist Fell'.split(' ');
const FIRMS = [
  'Quay Rope Works',
  'Holm & Vik Boats',
  'Northern Lamp Company',
  'Ferry Office',
  'Dr Strand Dental',
  'Fell Insurance'
];

function anything(seed: number): Any {
  const random = seeded(seed);
  const number = (below: number): number => Math.floor(random() * below);
  const pick = <T>(list: readonly T[]): T => list[number(list.length)]!;
  const words = (count: number): string =>
    Array.from({ length: count }, () => pick(WORDS)).join(' ');
  const title = (): string => {
    const text = words(3 + number(6));
    return text[0]!.toUpperCase() + text.slice(1);
  };
  return {
    pick,
    number,
    words,
    title,
    name: () => `${pick(FIRST)} ${pick(LAST)}`,
    company: () => pick(FIRMS),
    at: (i) => Date.UTC(2024, 1, 3) + i * 3_791_000 + number(900_000),
    phone: (n) => `+44770090${String(1000 + n * 37).slice(0, 4)}`
  };
}

export const OTHERS: Other[] = [
  {
    label: 'calls with the callers’ names',
    sql: 'CREATE TABLE calls(_id INTEGER PRIMARY KEY, number TEXT, date INTEGER, duration INTEGER, type INTEGER, new INTEGER, name TEXT, numbertype INTEGER, geocoded_location TEXT)',
    row: (i, a) => [
      i,
      a.phone(i % 9),
      a.at(i),
      i % 3 ? a.number(900) : 0,
      1 + a.number(3),
      0,
      `${FIRST[i % 9]} ${LAST[i % 9]}`,
      2,
      a.pick(['North Quay', 'Lower Harbour', null])
    ]
  },
  {
    label: 'calls of a caller',
    sql: 'CREATE TABLE ZCALLRECORD(Z_PK INTEGER PRIMARY KEY, ZANSWERED INTEGER, ZDATE REAL, ZDURATION REAL, ZADDRESS TEXT, ZNAME TEXT, ZORIGINATED INTEGER, ZLOCATION TEXT)',
    row: (i, a) => [
      i,
      i % 2,
      a.at(i) / 1000 - 978_307_200,
      a.number(500) + 0.5,
      a.phone(i % 7),
      `${FIRST[i % 7]} ${LAST[i % 7]} at home`,
      i % 2,
      'United Coast'
    ]
  },
  {
    label: 'calls without lengths, each with a note',
    sql: 'CREATE TABLE history(id INTEGER PRIMARY KEY, contact TEXT, call_type INTEGER, started INTEGER, label TEXT)',
    row: (i, a) => [
      i,
      a.phone(i % 11),
      a.number(3),
      a.at(i),
      `${FIRST[i % 11]} ${LAST[i % 10]} the one with the boat`
    ]
  },
  {
    label: 'an address book',
    sql: 'CREATE TABLE contacts(id INTEGER PRIMARY KEY, first_name TEXT, last_name TEXT, organisation TEXT, phone TEXT, created INTEGER, note TEXT)',
    row: (i, a) => [
      i,
      a.pick(FIRST),
      a.pick(LAST),
      i % 2 ? a.company() : null,
      a.phone(i),
      a.at(i),
      i % 4 ? null : a.words(5)
    ]
  },
  {
    label: 'an address book of organisations',
    sql: 'CREATE TABLE ABPerson(ROWID INTEGER PRIMARY KEY, First TEXT, Last TEXT, Organization TEXT, Note TEXT, CreationDate INTEGER, ModificationDate INTEGER)',
    row: (i, a) => [
      i,
      a.pick(FIRST),
      a.pick(LAST),
      `${a.company()} of the ${a.pick(WORDS)} quay`,
      null,
      a.at(i) / 1000,
      a.at(i) / 1000
    ]
  },
  {
    label: 'data rows of contacts',
    sql: 'CREATE TABLE data(_id INTEGER PRIMARY KEY, mimetype_id INTEGER, raw_contact_id INTEGER, data1 TEXT, data2 TEXT, data3 TEXT, last_time_used INTEGER)',
    row: (i, a) => [
      i,
      1 + (i % 4),
      Math.floor(i / 4),
      i % 4 === 0 ? a.phone(i) : i % 4 === 1 ? a.name() : a.company(),
      '2',
      a.words(2),
      a.at(i)
    ]
  },
  {
    label: 'a calendar',
    sql: 'CREATE TABLE Events(_id INTEGER PRIMARY KEY, calendar_id INTEGER, title TEXT, eventLocation TEXT, description TEXT, dtstart INTEGER, dtend INTEGER, organizer TEXT, eventTimezone TEXT)',
    row: (i, a) => [
      i,
      1 + a.number(3),
      a.title(),
      a.company(),
      a.words(12),
      a.at(i),
      a.at(i) + 3_600_000,
      'tilda@quay.example',
      'Europe/Oslo'
    ]
  },
  {
    label: 'a calendar of another make',
    sql: 'CREATE TABLE CalendarItem(ROWID INTEGER PRIMARY KEY, summary TEXT, location_id INTEGER, description TEXT, start_date REAL, end_date REAL, calendar_id INTEGER, creator TEXT)',
    row: (i, a) => [
      i,
      a.title(),
      a.number(5),
      `${a.words(9)}.`,
      a.at(i) / 1000 - 978_307_200,
      a.at(i) / 1000 - 978_303_600,
      1 + a.number(2),
      a.pick(FIRST)
    ]
  },
  {
    label: 'reminders',
    sql: 'CREATE TABLE reminders(id INTEGER PRIMARY KEY, list_id INTEGER, title TEXT, due_date INTEGER, completed INTEGER, assigned_to TEXT)',
    row: (i, a) => [i, 1 + a.number(4), a.title(), a.at(i), a.number(2), a.pick(FIRST)]
  },
  {
    label: 'notes',
    sql: 'CREATE TABLE notes(_id INTEGER PRIMARY KEY, folder_id INTEGER, title TEXT, content TEXT, created INTEGER, modified INTEGER, color INTEGER)',
    row: (i, a) => [
      i,
      1 + a.number(3),
      a.title(),
      `${a.words(20)}. ${a.words(8)}?`,
      a.at(i),
      a.at(i) + 5000,
      a.number(4)
    ]
  },
  {
    label: 'a diary',
    sql: 'CREATE TABLE entries(id INTEGER PRIMARY KEY, text TEXT, written_at TEXT, mood INTEGER)',
    row: (i, a) => [i, `${a.words(25)}.`, new Date(a.at(i)).toISOString(), a.number(5)]
  },
  {
    label: 'pages visited',
    sql: 'CREATE TABLE urls(id INTEGER PRIMARY KEY, url TEXT, title TEXT, visit_count INTEGER, typed_count INTEGER, last_visit_time INTEGER, hidden INTEGER)',
    row: (i, a) => [
      i,
      `https://site${a.number(9)}.example/p/${i}`,
      `${a.title()} - ${a.company()}`,
      a.number(9),
      0,
      (a.at(i) + 11_644_473_600_000) * 1000,
      0
    ]
  },
  {
    label: 'pages visited, of another make',
    sql: 'CREATE TABLE moz_places(id INTEGER PRIMARY KEY, url TEXT, title TEXT, rev_host TEXT, visit_count INTEGER, frecency INTEGER, last_visit_date INTEGER, guid TEXT, description TEXT)',
    row: (i, a) => [
      i,
      `https://host${a.number(20)}.example/${i}`,
      a.title(),
      'elpmaxe.tsoh.',
      1,
      100,
      a.at(i) * 1000,
      `g${i}`,
      a.words(14)
    ]
  },
  {
    label: 'bookmarks',
    sql: 'CREATE TABLE bookmarks(id INTEGER PRIMARY KEY, parent INTEGER, title TEXT, url TEXT, created INTEGER, user_entered INTEGER)',
    row: (i, a) => [i, a.number(5), a.title(), `http://b${i}.example/`, a.at(i), 0]
  },
  {
    label: 'songs',
    sql: 'CREATE TABLE audio(_id INTEGER PRIMARY KEY, _data TEXT, title TEXT, artist TEXT, album TEXT, duration INTEGER, date_added INTEGER, track INTEGER)',
    row: (i, a) => [
      i,
      `/storage/music/${i}.mp3`,
      a.title(),
      `${a.pick(FIRST)} and the ${a.pick(WORDS)}s`,
      a.title(),
      a.number(300_000),
      a.at(i) / 1000,
      i % 12
    ]
  },
  {
    label: 'an index of pictures',
    sql: 'CREATE TABLE files(_id INTEGER PRIMARY KEY, _data TEXT, _size INTEGER, date_added INTEGER, mime_type TEXT, title TEXT, description TEXT, bucket_display_name TEXT, width INTEGER, height INTEGER)',
    row: (i, a) => [
      i,
      `/storage/dcim/camera/img_${i}.jpg`,
      a.number(1e7),
      a.at(i) / 1000,
      'image/jpeg',
      `img_${i}`,
      i % 3 ? null : a.words(7),
      a.pick(['Camera', 'Screenshots', 'Harbour in winter']),
      4000,
      3000
    ]
  },
  {
    label: 'pictures with captions',
    sql: 'CREATE TABLE photos(id INTEGER PRIMARY KEY, album_id INTEGER, caption TEXT, path TEXT, taken INTEGER, owner TEXT, width INTEGER)',
    row: (i, a) => [
      i,
      a.number(6),
      `${a.title()}.`,
      `album/${a.number(6)}/p${i}.heic`,
      a.at(i),
      a.pick(FIRST),
      3024
    ]
  },
  {
    label: 'a cache of mail',
    sql: 'CREATE TABLE mails(_id INTEGER PRIMARY KEY, thread_id INTEGER, subject TEXT, snippet TEXT, from_address TEXT, to_addresses TEXT, date_received INTEGER, mailbox_id INTEGER, flag_read INTEGER)',
    row: (i, a) => [
      i,
      Math.floor(i / 3),
      a.title(),
      `${a.words(18)} …`,
      `${a.name()} <p${a.number(9)}@quay.example>`,
      'Tilda Marsh <tilda@quay.example>',
      a.at(i),
      1,
      i % 2
    ]
  },
  {
    label: 'an index of mail',
    sql: 'CREATE TABLE messages(ROWID INTEGER PRIMARY KEY, subject TEXT, sender TEXT, date_sent INTEGER, mailbox INTEGER, preview TEXT, read INTEGER)',
    row: (i, a) => [
      i,
      `Re: ${a.title()}`,
      `p${a.number(9)}@quay.example`,
      a.at(i) / 1000,
      1,
      a.words(16),
      1
    ]
  },
  {
    label: 'settings',
    sql: 'CREATE TABLE settings(_id INTEGER PRIMARY KEY, name TEXT, value TEXT, changed INTEGER)',
    row: (i, a) => [
      i,
      `${a.pick(WORDS)}.${a.pick(WORDS)}.${i}`,
      i % 2 ? a.words(5) : String(a.number(2)),
      a.at(i)
    ]
  },
  {
    label: 'a log of an app',
    sql: 'CREATE TABLE logs(_id INTEGER PRIMARY KEY, time INTEGER, level INTEGER, tag TEXT, message TEXT, pid INTEGER)',
    row: (i, a) => [
      i,
      a.at(i),
      a.number(5),
      a.pick(['net', 'sync', 'db', 'ui', 'auth']),
      a.pick([
        `opened socket ${i} to host`,
        `sync of folder ${a.number(9)} took ${i} ms`,
        'user went to the next screen',
        `could not read row ${i} of table`
      ]),
      4000 + a.number(3)
    ]
  },
  {
    label: 'events of an app',
    sql: 'CREATE TABLE events(id INTEGER PRIMARY KEY, session_id INTEGER, name TEXT, details TEXT, user TEXT, created_at INTEGER)',
    row: (i, a) => [
      i,
      Math.floor(i / 20),
      a.pick(['screen', 'tap', 'scroll']),
      a.pick([
        `user opened the screen number ${i}`,
        `user tapped the button ${a.number(50)}`,
        'list was scrolled to the end',
        `request ${i} was answered after ${a.number(900)} ms`
      ]),
      'u-1',
      a.at(i)
    ]
  },
  {
    label: 'notices of apps',
    sql: 'CREATE TABLE notifications(_id INTEGER PRIMARY KEY, package TEXT, title TEXT, text TEXT, posted INTEGER, channel TEXT)',
    row: (i, a) => [
      i,
      a.pick(['example.bank', 'example.shop', 'example.news', 'example.game']),
      a.company(),
      a.pick([
        `Your parcel ${i} is on its way`,
        `You have ${a.number(9)} new offers`,
        'Your storage is almost full',
        `${a.number(90)} people liked your picture`
      ]),
      a.at(i),
      'default'
    ]
  },
  {
    label: 'usage of apps',
    sql: 'CREATE TABLE app_usage(id INTEGER PRIMARY KEY, bundle_id TEXT, label TEXT, started INTEGER, seconds INTEGER, user_id INTEGER)',
    row: (i, a) => [i, `example.app${a.number(20)}`, `${a.title()}`, a.at(i), a.number(500), 1]
  },
  {
    label: 'searches',
    sql: 'CREATE TABLE searches(_id INTEGER PRIMARY KEY, query TEXT, date INTEGER, source TEXT)',
    row: (i, a) => [i, a.words(3 + a.number(4)), a.at(i), a.pick(['box', 'voice'])]
  },
  {
    label: 'a feed',
    sql: 'CREATE TABLE items(id INTEGER PRIMARY KEY, feed_id INTEGER, title TEXT, link TEXT, author TEXT, summary TEXT, published INTEGER)',
    row: (i, a) => [
      i,
      a.number(5),
      a.title(),
      `https://news.example/${i}`,
      a.name(),
      `${a.words(24)}.`,
      a.at(i)
    ]
  },
  {
    label: 'downloads',
    sql: 'CREATE TABLE downloads(id INTEGER PRIMARY KEY, url TEXT, target_path TEXT, title TEXT, start_time INTEGER, received_bytes INTEGER, referrer TEXT)',
    row: (i, a) => [
      i,
      `https://files.example/${i}.pdf`,
      `/downloads/${i}.pdf`,
      a.title(),
      a.at(i),
      a.number(1e6),
      'https://files.example/'
    ]
  },
  {
    label: 'places',
    sql: 'CREATE TABLE places(id INTEGER PRIMARY KEY, name TEXT, address TEXT, lat REAL, lon REAL, visited INTEGER, category TEXT)',
    row: (i, a) => [
      i,
      a.company(),
      `${a.number(90)} ${a.title()} Street`,
      59 + i / 1000,
      10 + i / 1000,
      a.at(i),
      a.pick(['shop', 'home', 'work'])
    ]
  },
  {
    label: 'shopping',
    sql: 'CREATE TABLE orders(id INTEGER PRIMARY KEY, customer_id INTEGER, product TEXT, description TEXT, price REAL, ordered_at INTEGER, seller TEXT)',
    row: (i, a) => [
      i,
      1,
      a.title(),
      `${a.words(10)} with ${a.number(9)} parts`,
      a.number(900) / 10,
      a.at(i),
      a.company()
    ]
  },
  {
    label: 'payments',
    sql: 'CREATE TABLE transactions(id INTEGER PRIMARY KEY, account_id INTEGER, amount REAL, payee TEXT, memo TEXT, booked_at INTEGER, balance REAL)',
    row: (i, a) => [
      i,
      1 + a.number(2),
      a.number(9000) / 100,
      a.company(),
      a.pick([`card payment ${i}`, `standing order no ${i}`, `transfer to savings ${i}`]),
      a.at(i),
      a.number(90_000) / 100
    ]
  },
  {
    label: 'recordings',
    sql: 'CREATE TABLE recordings(Z_PK INTEGER PRIMARY KEY, ZCUSTOMLABEL TEXT, ZPATH TEXT, ZDATE REAL, ZDURATION REAL)',
    row: (i, a) => [i, a.title(), `rec/${i}.m4a`, a.at(i) / 1000 - 978_307_200, a.number(500)]
  },
  {
    label: 'books with marked passages',
    sql: 'CREATE TABLE highlights(id INTEGER PRIMARY KEY, book_id INTEGER, passage TEXT, chapter TEXT, created INTEGER, color INTEGER)',
    row: (i, a) => [
      i,
      a.number(4),
      `${a.words(22)}.`,
      `Chapter ${a.number(20)}`,
      a.at(i),
      a.number(4)
    ]
  },
  {
    label: 'translations',
    sql: 'CREATE TABLE translations(id INTEGER PRIMARY KEY, source_text TEXT, target_text TEXT, source_lang TEXT, target_lang TEXT, at INTEGER)',
    row: (i, a) => [i, a.words(6), a.words(6), 'en', a.pick(['no', 'de']), a.at(i)]
  },
  {
    label: 'reviews',
    sql: 'CREATE TABLE reviews(id INTEGER PRIMARY KEY, place_id INTEGER, rating INTEGER, author_name TEXT, review TEXT, created INTEGER)',
    row: (i, a) => [i, i, 1 + a.number(5), a.name() + i, `${a.words(15)}.`, a.at(i)]
  }
];

/** Rows of each table, and the share that was deleted. */
const ROWS = 160;

/** A database of one such table, a part of whose rows was deleted. */
export function otherStore(other: Other, seed: number): Uint8Array {
  const any = anything(seed);
  const table = /CREATE TABLE (\w+)/.exec(other.sql)![1]!;
  const key = /\((\w+)/.exec(other.sql)![1]!;
  return makeDatabase((db: SqlJs) => {
    db.run(other.sql);
    for (let i = 1; i <= (other.rows ?? ROWS); i++) {
      const values = other.row(i, any);
      db.run(`INSERT INTO ${table} VALUES(${values.map(() => '?').join()})`, values);
    }
    db.run(`DELETE FROM ${table} WHERE ${key} % 7 = 0`);
  });
}
