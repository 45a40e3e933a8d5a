import initSqlJs from 'sql.js';
import { writeAb } from '../../bench/writers/ab';
import { writeTar } from '../../bench/writers/tar';
import { CHARACTERS } from '../people';
import { picture } from './pictures';
import { smallTalk } from './talk';

const SQL = await initSqlJs();
const FROM = Date.UTC(2025, 10, 2, 8);

/** The old handset as an archive; its chat app keeps its messages in tables that no profile knows. */
export function handsetArchive(): Uint8Array {
  const files = {
    'apps/org.example.parley/_manifest': Buffer.from('1\norg.example.parley\n14\n'),
    'apps/org.example.parley/db/parley.db': parley(),
    'apps/org.example.parley/f/received/slip-1.png': picture(21),
    'apps/org.example.parley/f/received/slip-2.png': picture(22),
    'shared/0/Pictures/havsule.png': picture(23)
  };
  return writeAb({ tar: writeTar(files, FROM), compressed: true });
}

export function parley(): Uint8Array {
  const db = new SQL.Database();
  db.run('PRAGMA secure_delete=OFF');
  db.run(`CREATE TABLE mate(mate_no INTEGER PRIMARY KEY, callsign TEXT, dial TEXT, is_self INTEGER DEFAULT 0);
    CREATE TABLE berth(berth_no INTEGER PRIMARY KEY, caption TEXT, opened INTEGER);
    CREATE TABLE berth_mate(berth_no INTEGER, mate_no INTEGER, PRIMARY KEY(berth_no, mate_no));
    CREATE TABLE utterance(n INTEGER PRIMARY KEY, berth_no INTEGER REFERENCES berth(berth_no), mate_no INTEGER REFERENCES mate(mate_no), stamp INTEGER, wording TEXT, enclosure TEXT, seen INTEGER DEFAULT 1);`);
  const mates = [
    ['Eirin', '+447700900001'],
    ...['halvard', 'bjarne', 'yevhen'].map((key) => {
      const { name, address } = CHARACTERS[key as 'halvard'];
      return [name, address];
    })
  ];
  mates.forEach(([name, dial], i) =>
    db.run('INSERT INTO mate VALUES(?,?,?,?)', [i + 1, name!, dial!, i === 0 ? 1 : 0])
  );
  mates.slice(1).forEach(([name], i) => {
    db.run('INSERT INTO berth VALUES(?,?,?)', [i + 1, name!, FROM]);
    db.run('INSERT INTO berth_mate VALUES(?,1),(?,?)', [i + 1, i + 1, i + 2]);
  });
  let n = 0;
  for (const berth of [1, 2, 3]) {
    for (const { at, own, text } of smallTalk(berth * 3, FROM + berth * 7_200_000, 70)) {
      db.run('INSERT INTO utterance(n,berth_no,mate_no,stamp,wording) VALUES(?,?,?,?,?)', [
        ++n,
        berth,
        own ? 1 : berth + 1,
        at * 1000,
        text
      ]);
    }
  }
  const add = (own: boolean, minutes: number, text: string, file: string | null): void =>
    void db.run(
      'INSERT INTO utterance(n,berth_no,mate_no,stamp,wording,enclosure) VALUES(?,1,?,?,?,?)',
      [++n, own ? 1 : 2, (FROM + 40 * 86_400_000 + minutes * 60_000) * 1000, text, file]
    );
  add(false, 0, 'Put the deposit into the tin on the slip, I take it from there.', null);
  add(true, 4, 'In notes? All eighty thousand?', null);
  add(false, 6, 'Half. This is the slip, so that you find it.', 'received/slip-1.png');
  add(false, 7, 'And from the water side.', 'received/slip-2.png');
  add(true, 30, 'Done. The tin is heavier now.', null);
  db.run(`DELETE FROM utterance WHERE n > ${n - 5} AND n <> ${n - 2}`);
  const bytes = db.export();
  db.close();
  return bytes;
}
