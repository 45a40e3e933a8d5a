import { idKey, emptyColumns, type ToldLines } from '../case/lines';
import { findJoins, joinPeople, UNDECIDED, type Join } from '../case/people';
import type { Contact, Person } from '../records';
import { nameByContacts, mergePeople, normaliseAddress } from '../messages';
import { wroteTheSame } from '../case/lines';
import { seeded } from './telephony';

/** Four invented sources, and who is really behind each of their addresses. */
export interface PeopleCorpus {
  people: Person[];
  contacts: Contact[];
  stores: ToldLines[];
  /** The invented person behind each id; several where a line is shared. */
  truth: Map<string, Set<number>>;
}

const GIVEN =
  'Aino Birk Corin Dagny Edda Falk Gorm Hedda Ivar Jorun Ketil Liv Mira Njal Odda Pell Runa Sten Tove Ulf'.split(
    ' '
  );
const FAMILY =
  'Aker Bratt Dale Eng Foss Grov Holm Ness Lund Moe Nygard Ost Prest Rod Strand Tangen Vik Wold Aas Berge'.split(
    ' '
  );
const WORDS =
  'anchor fog mast tide lamp keel rope bell quay gull oak tar slip ferry herring net oar sail buoy crate'.split(
    ' '
  );

interface Invented {
  n: number;
  name: string;
  mobile: string;
  abroad: boolean;
  landline: string | null;
  mail: string | null;
  handle: string | null;
}

/** 200 people with up to five addresses: mobile, mobile at home, landline, mail, handle. */
export function peopleCorpus(seed: number, count = 200): PeopleCorpus {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const names = new Set<string>();
  const people = Array.from({ length: count }, (_, n): Invented => {
    const abroad = random() < 0.2;
    // Some share their last digits with somebody in another country.
    const local = String(40_000_000 + (((n >> (random() < 0.1 ? 1 : 0)) * 37_717) % 9_000_000));
    const name = `${pick(GIVEN)} ${pick(FAMILY)}`;
    const isNamesake = names.has(name);
    names.add(name);
    return {
      n,
      name,
      abroad,
      mobile: abroad ? `+46 70 ${local.slice(1)}` : `+47 ${local}`,
      landline: random() < 0.3 ? `+47 22 ${String(100_000 + n * 7).slice(0, 6)}` : null,
      mail:
        random() < 0.5
          ? `${name.toLowerCase().replace(' ', '.')}${isNamesake ? n : ''}@post.example`
          : null,
      handle: random() < 0.6 ? `${pick(WORDS)}_${pick(WORDS)}${n}` : null
    };
  });
  // Couples share a landline.
  for (let n = 0; n + 1 < count; n += 25)
    people[n + 1]!.landline = people[n]!.landline ??= `+47 23 ${500_000 + n}`;
  return new Corpus(people, random).made();
}

class Corpus {
  private readonly truth = new Map<string, Set<number>>();
  private readonly contacts: Contact[] = [];
  private readonly known: Person[][] = [[], [], [], []];
  private readonly lines: { at: number; sender: string; content: number }[][] = [[], [], [], []];

  constructor(
    private readonly people: readonly Invented[],
    private readonly random: () => number
  ) {}

  made(): PeopleCorpus {
    for (const person of this.people) this.put(person);
    this.broadcast();
    let people: Person[] = [];
    for (const known of this.known) people = mergePeople(people, known);
    return {
      people: nameByContacts(people, this.contacts),
      contacts: this.contacts,
      stores: this.lines.map((lines, i) => storeOf(lines, this.known[i]!)),
      truth: this.truth
    };
  }

  /** Someone known to a store under an address. */
  private knownTo(store: number, person: Invented, address: string, name: string | null): string {
    // The first two know where they are; the others do not.
    const form = normaliseAddress(address, store < 2 ? { country: 'NO' } : null);
    const id = `p:${form}`;
    const own = this.truth.get(id) ?? new Set();
    this.truth.set(id, own.add(person.n));
    const list = this.known[store]!;
    if (!list.some((known) => known.id === id))
      list.push({ id, name, addresses: [form], owner: false });
    return id;
  }

  private put(person: Invented): void {
    const { name, mobile, abroad, landline, mail, handle, n } = person;
    const home = abroad ? mobile : mobile.replace('+47 ', '');
    const phone = this.knownTo(0, person, home, null);
    // A phone and its contacts; whom it has no entry of is found by what was written alone.
    if (this.random() < 0.7) {
      const phones = [home, ...(landline ? [landline] : [])];
      const emails = mail ? [mail] : [];
      for (const address of [...phones, ...emails]) this.knownTo(0, person, address, null);
      this.contacts.push({ ...NOBODY, id: `c${n}`, name, phones, emails });
    } else if (mail && handle) this.knownTo(0, person, mail, name);
    const copy = this.knownTo(1, person, `${mobile.replace(/\D/g, '')}@s.chat.example`, null);
    const national = this.knownTo(2, person, home, null);
    const texts = 6 + Math.floor(this.random() * 20);
    for (let i = 0; i < texts; i++) {
      const at = 1_700_000_000_000 + n * 86_400_000 + i * 613_000;
      const content = idKey(`${n}/${i}`);
      this.lines[0]!.push({ at, sender: phone, content });
      if (i % 3 === 0)
        this.lines[1]!.push({
          at: at + 7_000_000,
          sender: copy,
          content: idKey(`other ${n}/${i}`)
        });
      this.lines[2]!.push({ at: Math.floor(at / 1000) * 1000, sender: national, content });
    }
    if (!handle) return;
    // The application on the computer holds what the one on the phone held, under handles.
    const own = this.knownTo(3, person, handle, this.random() < 0.5 ? name : null);
    for (let i = 0; i < texts; i++)
      this.lines[3]!.push({
        at: 1_700_000_000_000 + n * 86_400_000 + i * 613_000 + 400,
        sender: own,
        content: idKey(`${n}/${i}`)
      });
  }

  /** Everybody writes the same on one day, some at the same moment. */
  private broadcast(): void {
    for (const { n } of this.people)
      for (const store of [0, 3]) {
        const sender = this.known[store]![n % this.known[store]!.length]!.id;
        this.lines[store]!.push({
          at: 1_704_063_600_000 + (n % 5) * 500,
          sender,
          content: idKey('a good new year')
        });
      }
  }
}

const NOBODY: Contact = {
  id: '',
  store: 's1.1',
  person: null,
  name: null,
  phones: [],
  emails: [],
  organisation: null,
  note: null,
  state: 'live',
  certainty: 100,
  proofs: []
};

function storeOf(
  lines: readonly { at: number; sender: string; content: number }[],
  people: readonly Person[]
): ToldLines {
  const columns = emptyColumns(lines.length);
  const senders = [...new Set(lines.map(({ sender }) => sender))];
  const places = new Map(senders.map((sender, i) => [sender, i]));
  lines.forEach(({ at, sender, content }, row) => {
    columns.sentAt[row] = at;
    columns.contentKey[row] = content;
    columns.context[row] = places.get(sender)!;
  });
  const contexts = senders.map((sender) => ({
    thread: sender,
    sender,
    direction: 'incoming' as const
  }));
  return { contexts, columns, people: new Set(people.map(({ id }) => id)) };
}

/** How well a corpus is joined. */
export interface JoinScore {
  /** Pairs that are one person's. */
  right: number;
  /** Of them, joined by themselves, and joined or proposed. */
  made: number;
  proposed: number;
  /** Pairs that are two people's and were joined by themselves. */
  wrong: Join[];
  wronglyProposed: number;
}

/** Joins a corpus and holds it against who is really behind the addresses. Lines that several share count for nobody. */
export function scoreJoins({ people, contacts, stores, truth }: PeopleCorpus): JoinScore {
  const found = findJoins({ people, contacts, shared: wroteTheSame(stores) });
  const { individuals, proposals } = joinPeople(found, UNDECIDED);
  const setOf = new Map(
    individuals.flatMap((one) => one.members.map((id) => [id, one.id] as const))
  );
  const whole = joinPeople(found, {
    together: found.map(({ a, b }) => [a, b]),
    apart: []
  });
  const bestOf = new Map(
    whole.individuals.flatMap((one) => one.members.map((id) => [id, one.id] as const))
  );
  const single = [...truth].filter(([, who]) => who.size === 1);
  const score: JoinScore = { right: 0, made: 0, proposed: 0, wrong: [], wronglyProposed: 0 };
  for (let i = 0; i < single.length; i++)
    for (let j = i + 1; j < single.length; j++) {
      const [[a, one], [b, other]] = [single[i]!, single[j]!];
      const isRight = [...one][0] === [...other][0];
      const isMade = setOf.has(a) && setOf.get(a) === setOf.get(b);
      if (isRight) {
        score.right++;
        if (isMade) score.made++;
        if (bestOf.has(a) && bestOf.get(a) === bestOf.get(b)) score.proposed++;
      } else if (isMade)
        score.wrong.push({ a, b, reason: 'hand', text: `${a} and ${b}`, isSure: true });
    }
  score.wronglyProposed = proposals.filter(({ a, b }) => {
    const [one, other] = [truth.get(a), truth.get(b)];
    return ![...(one ?? [])].some((n) => other?.has(n));
  }).length;
  return score;
}
