import { openDB, type IDBPDatabase } from 'idb';
import type { OmbudsmanDb } from './schema';

export type Storage = IDBPDatabase<OmbudsmanDb>;

const NAME = 'ombudsman';
const VERSION = 6;

/** Where it is told that the storage waits for another tab. */
export const STORAGE_CHANNEL = 'ombudsman storage';

let opening: Promise<Storage> | null = null;

/** The browser's storage, opened once a page or worker. Each version's step stands by itself, so that any older one can be brought up. */
export function openStorage(): Promise<Storage> {
  opening ??= openDB<OmbudsmanDb>(NAME, VERSION, {
    upgrade(db, from) {
      if (from < 1) createFirst(db);
      if (from < 2) addFilesAndProfiles(db);
      if (from < 3) addThird(db);
      if (from < 4) addCopies(db);
      if (from < 5) addLines(db);
      if (from < 6) addNotes(db);
    },
    blocked() {
      // Another tab holds an older version open. It gives way by itself, unless it is stuck.
      new BroadcastChannel(STORAGE_CHANNEL).postMessage('blocked');
    },
    blocking(_current, _blocked, event) {
      // A newer version of the application wants to upgrade: give way, and open again on the next use.
      (event.target as IDBDatabase).close();
      opening = null;
    },
    terminated() {
      opening = null;
    }
  });
  return opening;
}

function createFirst(db: IDBPDatabase<OmbudsmanDb>): void {
  db.createObjectStore('cases', { keyPath: 'id' });
  db.createObjectStore('sources', { keyPath: 'key' }).createIndex('case', 'caseId');
  const chunks = db.createObjectStore('chunks', {
    keyPath: ['caseId', 'sourceId', 'store', 'part']
  });
  chunks.createIndex('case', 'caseId');
  db.createObjectStore('blobs', { keyPath: 'sha256' });
  db.createObjectStore('exhibits', { keyPath: 'caseId' });
  db.createObjectStore('productions', { keyPath: 'id' }).createIndex('case', 'caseId');
}

function addFilesAndProfiles(db: IDBPDatabase<OmbudsmanDb>): void {
  const files = db.createObjectStore('files', { keyPath: ['caseId', 'sourceId', 'part'] });
  files.createIndex('case', 'caseId');
  db.createObjectStore('profiles', { keyPath: 'id' });
}

function addThird(db: IDBPDatabase<OmbudsmanDb>): void {
  db.createObjectStore('custody', { keyPath: ['caseId', 'n'] }).createIndex('case', 'caseId');
  db.createObjectStore('presets', { keyPath: 'id' });
  db.createObjectStore('intakes', { keyPath: 'caseId' });
}

function addCopies(db: IDBPDatabase<OmbudsmanDb>): void {
  db.createObjectStore('copies', { keyPath: 'key' }).createIndex('case', 'caseId');
  db.createObjectStore('copyParts', { keyPath: ['copy', 'path', 'n'] });
  db.createObjectStore('copyLines', { keyPath: ['copy', 'n'] });
}

/** What earlier versions keep in `chunks` is moved when its case is opened. */
function addLines(db: IDBPDatabase<OmbudsmanDb>): void {
  db.createObjectStore('stores', { keyPath: ['caseId', 'sourceId', 'store'] });
  for (const name of ['columns', 'texts', 'origins', 'attachments'] as const)
    db.createObjectStore(name, { keyPath: ['caseId', 'sourceId', 'store', 'run', 'part'] });
  db.createObjectStore('indexes', { keyPath: 'caseId' });
  db.createObjectStore('packs', { keyPath: 'id' });
  db.createObjectStore('places', { keyPath: 'source' });
}

function addNotes(db: IDBPDatabase<OmbudsmanDb>): void {
  db.createObjectStore('notes', { keyPath: ['caseId', 'of'] });
}
