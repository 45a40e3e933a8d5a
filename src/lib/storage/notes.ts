import { openStorage } from './open';
import type { NoteRecord } from './schema';

export async function keptNotes(caseId: string): Promise<NoteRecord[]> {
  const db = await openStorage();
  return db.getAll('notes', IDBKeyRange.bound([caseId], [caseId, []]));
}

/** Keeps notes, all or none; those without words and labels are taken away. */
export async function keepNotes(notes: readonly NoteRecord[]): Promise<void> {
  const db = await openStorage();
  const transaction = db.transaction('notes', 'readwrite');
  for (const note of notes)
    void (note.text === '' && note.labels.length === 0
      ? transaction.store.delete([note.caseId, note.of])
      : transaction.store.put(note));
  await transaction.done;
}
