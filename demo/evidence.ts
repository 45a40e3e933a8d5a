import initSqlJs from 'sql.js';
import { CHARACTERS } from './people';
import { PhoneStore } from './phone';
import { writeScript } from './script';
import { TabletStore } from './tablet';

/** A file of the demo evidence. */
export interface EvidenceFile {
  name: string;
  bytes: Uint8Array;
}

/** The day on which messages were deleted; what comes later is written into the space they left. */
const DELETED_ON = Date.UTC(2026, 3, 3, 8, 30);

/** Makes the demo's databases with real SQLite, in the order in which things happened. */
export async function makeEvidence(): Promise<EvidenceFile[]> {
  const SQL = await initSqlJs();
  const phoneDb = new SQL.Database();
  const tabletDb = new SQL.Database();
  const phone = new PhoneStore(phoneDb);
  const tablet = new TabletStore(tabletDb);
  const phoneDeletes: string[] = [];
  const tabletDeletes: string[] = [];
  let deleted = false;
  phoneDb.run('BEGIN');
  tabletDb.run('BEGIN');
  for (const line of writeScript()) {
    if (!deleted && line.at > DELETED_ON) {
      deleted = true;
      commitDeletes(phoneDb, [...phoneDeletes, ...TIDIED]);
      commitDeletes(tabletDb, tabletDeletes);
      tablet.dropChat('ottar');
    }
    const store = line.store === 'phone' ? phone : tablet;
    const undo = store.add(line);
    if (line.deleted) (line.store === 'phone' ? phoneDeletes : tabletDeletes).push(...undo);
  }
  phoneDb.run('COMMIT');
  tabletDb.run('COMMIT');
  return [
    { name: 'phone-telephony.db', bytes: phoneDb.export() },
    { name: 'tablet-chat.db', bytes: tabletDb.export() }
  ];
}

/** The phone also lost its notices of the winter, and the thread of the second number as a whole. */
const TIDIED = [
  `DELETE FROM sms WHERE address='${CHARACTERS.notices.address}' AND date < ${Date.UTC(2026, 1, 1)}`,
  `DELETE FROM threads WHERE _id = (SELECT thread_id FROM sms WHERE address='${CHARACTERS.second.address}')`
];

function commitDeletes(db: { run(sql: string): unknown }, statements: string[]): void {
  db.run('COMMIT');
  db.run('BEGIN');
  for (const statement of statements) db.run(statement);
  db.run('COMMIT');
  db.run('BEGIN');
}
