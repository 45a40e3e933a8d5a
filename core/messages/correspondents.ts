import { OWNER, type Person, type Thread } from '../records';

/** One row of the reading view: a person or a group, over all stores. */
export interface Correspondent {
  id: string;
  threads: string[];
  participants: string[];
  group: boolean;
  title: string | null;
}

/**
 * Joins the threads of all stores that have the same participants.
 * @param personOf the id of the person whom an address belongs to.
 */
export function correspondents(
  threads: readonly Thread[],
  personOf: (id: string) => string = (id) => id
): Correspondent[] {
  const byId = new Map<string, Correspondent>();
  for (const stored of threads) {
    const thread = asOne(stored, personOf);
    const id = correspondentId(thread);
    const known = byId.get(id);
    if (known) {
      known.threads.push(thread.id);
      known.title ??= thread.title;
    } else {
      const { participants, group, title } = thread;
      byId.set(id, { id, threads: [thread.id], participants, group, title: title || null });
    }
  }
  return [...byId.values()];
}

/** A group of one person's addresses is no group. */
function asOne(thread: Thread, personOf: (id: string) => string): Thread {
  const participants = [...new Set(thread.participants.map(personOf))];
  if (participants.length === thread.participants.length) return { ...thread, participants };
  const others = participants.filter((id) => id !== OWNER);
  return { ...thread, participants, group: thread.group && others.length > 1 };
}

function correspondentId(thread: Thread): string {
  const others = thread.participants.filter((id) => id !== OWNER);
  if (others.length === 1) return others[0]!;
  const named = thread.title ? `${thread.title}:` : '';
  return others.length === 0 ? thread.id : `g:${named}${[...others].sort().join('+')}`;
}

/** Adds people of another store or pass; a name that is known is kept. */
export function mergePeople(known: readonly Person[], more: readonly Person[]): Person[] {
  const byId = new Map(known.map((person) => [person.id, person]));
  for (const person of more) {
    const old = byId.get(person.id);
    if (!old) byId.set(person.id, person);
    else byId.set(person.id, { ...old, name: old.name ?? person.name });
  }
  return [...byId.values()];
}
