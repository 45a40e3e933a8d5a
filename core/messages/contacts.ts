import type { Contact, Person } from '../records';

/** National numbers differ from international ones in front; this many last digits tell a party. */
const TELLING = 9;

/**
 * Gives people without a name the one that a contact has for their address,
 * also where one is written nationally and the other internationally. A name
 * that several contacts claim for one number is given to nobody.
 */
export function nameByContacts(people: readonly Person[], contacts: readonly Contact[]): Person[] {
  const names = new Map<string, string | null>();
  for (const { name, phones, emails } of contacts) {
    if (name === null) continue;
    for (const key of [...phones, ...emails].flatMap(keyOf)) {
      const known = names.get(key);
      names.set(key, known === undefined || known === name ? name : null);
    }
  }
  return people.map((person) => {
    if (person.name !== null || person.owner) return person;
    const found = person.addresses.flatMap(keyOf).map((key) => names.get(key) ?? null);
    return { ...person, name: found.find((name) => name !== null) ?? null };
  });
}

function keyOf(address: string): string[] {
  if (address.includes('@')) return [address.trim().toLowerCase()];
  const digits = address.replace(/\D/g, '');
  if (digits.length < 3 || /[a-z]/i.test(address)) return [];
  return [digits.slice(-TELLING)];
}
