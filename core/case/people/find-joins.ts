import { type Contact, OWNER, type Person } from '../../records';
import type { Join, JoinReason, SharedLines } from './model';
import { type Dialled, isSameNumber, numberIn, tail } from './numbers';

/** What joins are found from. */
export interface PeopleFound {
  people: readonly Person[];
  contacts: readonly Contact[];
  shared: readonly SharedLines[];
  /** What the owner is called; empty where nobody knows. */
  owner?: string;
}

/** Entries with more addresses than one person has are lists. */
const MOST_ADDRESSES = 8;
/** Addresses of one name past which the name is that of many. */
const MOST_NAMESAKES = 4;
/** The same words at the same moment: as often as that two addresses are taken for one person's. */
const SURE_LINES = 5;
const SURE_SHARE = 0.5;
const LIKELY_LINES = 3;

/** Finds which addresses are, or may be, one person's. Sure ones come first. */
export function findJoins(found: PeopleFound): Join[] {
  const people = found.people.filter(({ owner }) => !owner);
  const joins = new Joins();
  const numbers = new Numbers(people);
  numbers.join(joins);
  joinContacts(people, found.contacts, numbers, joins);
  joinShared(found.shared, joins);
  joinNames(people, found, numbers, joins);
  return joins.all();
}

/** Each pair once, under the best that speaks for it. */
class Joins {
  private readonly byPair = new Map<string, Join>();

  add(one: string, other: string, reason: JoinReason, text: string, isSure: boolean): void {
    if (one === other) return;
    const [a, b] = one < other ? [one, other] : [other, one];
    const key = `${a}\n${b}`;
    const known = this.byPair.get(key);
    if (!known || (isSure && !known.isSure)) this.byPair.set(key, { a, b, reason, text, isSure });
  }

  all(): Join[] {
    return [...this.byPair.values()].sort((a, b) => Number(b.isSure) - Number(a.isSure));
  }
}

/** People by the numbers that their addresses hold. */
class Numbers {
  private readonly byTail = new Map<string, { id: string; number: Dialled }[]>();

  constructor(people: readonly Person[]) {
    for (const { id, addresses } of people)
      for (const address of addresses) {
        const number = numberIn(address);
        if (number) push(this.byTail, tail(number), { id, number });
      }
  }

  /** People who have a number, however it is written. */
  of(number: Dialled): string[] {
    const near = this.byTail.get(tail(number)) ?? [];
    return near.filter((one) => isSameNumber(number, one.number)).map(({ id }) => id);
  }

  join(joins: Joins): void {
    for (const near of this.byTail.values()) {
      if (near.length < 2) continue;
      for (const { id, number } of near) {
        const same = near.filter((other) => other.id !== id && isSameNumber(number, other.number));
        // What is dialled at home can be a number of several countries.
        const abroad = new Set(same.flatMap((other) => country(other.number)));
        const isSure = 'international' in number || abroad.size === 1;
        for (const other of same) {
          if (!isSure || ('national' in other.number && !this.isPlain(other.number))) {
            joins.add(id, other.id, 'number', 'The same digits, written without a country.', false);
          } else joins.add(id, other.id, 'number', 'The same number, written differently.', true);
        }
      }
    }
  }

  /** Whether digits without a country are those of one international number alone. */
  private isPlain(number: Dialled): boolean {
    const near = this.byTail.get(tail(number)) ?? [];
    const same = near.filter((other) => isSameNumber(number, other.number));
    return new Set(same.flatMap((other) => country(other.number))).size === 1;
  }
}

function country(number: Dialled): string[] {
  return 'international' in number ? [number.international] : [];
}

/** Who the addresses of a contact belong to. */
function peopleOf(
  { phones, emails }: Contact,
  byAddress: ReadonlyMap<string, string>,
  numbers: Numbers
): string[] {
  const ids = [...phones, ...emails].flatMap((address) => {
    const known = byAddress.get(address.trim().toLowerCase());
    const number = numberIn(address.trim());
    return [...(known === undefined ? [] : [known]), ...(number ? numbers.of(number) : [])];
  });
  return [...new Set(ids)];
}

function byAddressOf(people: readonly Person[]): Map<string, string> {
  return new Map(
    people.flatMap(({ id, addresses }) => addresses.map((one) => [one.toLowerCase(), id] as const))
  );
}

/** Addresses of one contact entry; one that entries of several names have joins nobody by itself. */
function joinContacts(
  people: readonly Person[],
  contacts: readonly Contact[],
  numbers: Numbers,
  joins: Joins
): void {
  const byAddress = byAddressOf(people);
  const entries = contacts.flatMap((contact) => {
    const ids = peopleOf(contact, byAddress, numbers);
    return ids.length > 0 ? [{ contact, ids }] : [];
  });
  const claimed = new Map<string, string[]>();
  for (const { contact, ids } of entries)
    for (const id of ids) if (contact.name !== null) push(claimed, id, contact.name);
  const isShared = (id: string): boolean => {
    const [first, ...others] = claimed.get(id) ?? [];
    return others.some((name) => !namesAgree(first!, name));
  };
  for (const { contact, ids } of entries) {
    if (ids.length < 2) continue;
    const isList = ids.length > MOST_ADDRESSES;
    const text = `The contact ${contact.name ?? 'without a name'} has both.`;
    const [first, ...others] = [...ids].sort((a, b) => Number(isShared(a)) - Number(isShared(b)));
    for (const other of others)
      joins.add(first!, other, 'contact', text, !isList && !isShared(first!) && !isShared(other));
  }
}

function joinShared(shared: readonly SharedLines[], joins: Joins): void {
  const best = new Map<string, number[]>();
  for (const { a, b, count } of shared) {
    push(best, a, count);
    push(best, b, count);
  }
  /** Whether somebody else shares nearly as many lines with one of them. */
  const isContested = (id: string, count: number): boolean =>
    best.get(id)!.filter((other) => other * 3 > count).length > 1;
  for (const { a, b, count, of } of shared) {
    if (count < LIKELY_LINES) continue;
    const isSure =
      count >= SURE_LINES &&
      count >= of * SURE_SHARE &&
      !isContested(a, count) &&
      !isContested(b, count);
    const text = `${count.toLocaleString('en')} messages of two stores have the same words at the same moments.`;
    joins.add(a, b, 'conversation', text, isSure);
  }
}

/** The same full name, by the stores, by contacts, or in a mail address. Namesakes are many: somebody has to decide. */
function joinNames(
  people: readonly Person[],
  { contacts, owner = '' }: PeopleFound,
  numbers: Numbers,
  joins: Joins
): void {
  const named = new Map<string, { id: string; name: string }[]>();
  const put = (id: string, name: string): void => {
    const words = nameWords(name);
    if (!isFullName(words)) return;
    const list = named.get(nameKey(words)) ?? [];
    if (!list.some((known) => known.id === id)) push(named, nameKey(words), { id, name });
  };
  put(OWNER, owner);
  for (const { id, name, addresses } of people) {
    if (name !== null) put(id, name);
    for (const address of addresses) {
      const [, local] = /^([^@]*\p{L}[^@]*?)\d*(?:@.*)?$/u.exec(address) ?? [];
      if (local !== undefined) put(id, local);
    }
  }
  const byAddress = byAddressOf(people);
  for (const contact of contacts)
    if (contact.name !== null)
      for (const id of peopleOf(contact, byAddress, numbers)) put(id, contact.name);
  for (const list of named.values()) {
    if (list.length < 2 || list.length > MOST_NAMESAKES) continue;
    const [first, ...others] = list;
    for (const { id } of others)
      joins.add(first!.id, id, 'name', `Both are called ${first!.name}.`, false);
  }
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

/** A name's words, without case and diacritics. */
function nameWords(name: string): string[] {
  return name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== '');
}

/** Whether a name tells one person from most others: two words, neither of them an initial. */
function isFullName(words: readonly string[]): boolean {
  return words.filter((word) => word.length > 1 && /\p{L}/u.test(word)).length >= 2;
}

/** Whether two names can be one person's: each word of the shorter is a word of the longer, or begins one. */
function namesAgree(a: string, b: string): boolean {
  const [short, long] = [nameWords(a), nameWords(b)].sort((x, y) => x.length - y.length);
  const left = [...long!];
  return short!.every((word) => {
    const at = left.findIndex((other) => other.startsWith(word) || word.startsWith(other));
    if (at < 0) return false;
    left.splice(at, 1);
    return true;
  });
}

/** The words of a name in their order by letters, to find it by. */
function nameKey(words: readonly string[]): string {
  return [...words].sort().join(' ');
}
