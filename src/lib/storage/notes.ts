import { openStorage } from './open';
import type { NoteRecord } from './schema';

export async function keptNotes(caseId: string): Promise<NoteRecord[]> {
  const db = await openStorage();
  return db.getAll('notes', IDBKeyRange.bound([caseId], [caseId, []]));
}

/** Keeps a note; one without words and labels is taken away. */
export async function keepNote(note: NoteRecord): Promise<void> {
  const db = await openStorage();
  if (note.text === '' && note.labels.length === 0)
    await db.delete('notes', [note.caseId, note.of]);
  else await db.put('notes', note);
}
