import type { CaseIndex, Naming } from '$core/case';
import { proxyMarker } from 'comlink';
import { NamesError, readNames, UNDECIDED, type Decisions, type Join } from '$core/case/people';
import { OWNER } from '$core/records';
import { logAct } from '../../storage/custody';
import type { CaseRecord, SourceRecord } from '../../storage/schema';
import type {
  AddressRow,
  JoinRow,
  NamesImport,
  PeopleApi,
  PeopleView,
  PersonCard
} from '../api/people-api';

/** What the people of a case are read from and kept in. */
interface PeopleHost {
  index(): CaseIndex;
  naming(): Naming;
  record(): CaseRecord;
  sources(): Promise<SourceRecord[]>;
  /** Changes the case as it is kept, and joins its people anew. */
  change(change: (kept: CaseRecord) => Partial<CaseRecord>): Promise<void>;
}

/** Answers what the page asks about people, and keeps what is decided about them. */
export class PeopleRoom implements PeopleApi {
  readonly [proxyMarker] = true as const;

  constructor(private readonly host: PeopleHost) {}

  async view(): Promise<PeopleView> {
    const index = this.host.index();
    const { proposals = [], undone = [] } = index.record.joined ?? {};
    const seen = new Set<string>();
    const cards = await this.cards();
    const people: PersonCard[] = [];
    for (const id of index.people.keys()) {
      const first = index.individuals.get(id)?.id ?? id;
      if (seen.has(first) || (id === OWNER && first === OWNER && !index.individuals.has(id)))
        continue;
      seen.add(first);
      people.push(cards(first));
    }
    people.sort((a, b) => b.lines - a.lines || a.name.localeCompare(b.name));
    return {
      people,
      proposals: proposals.map((join) => this.row(join)),
      undone: undone.map((join) => this.row(join)),
      imported: this.host.record().book?.length ?? 0
    };
  }

  async card(id: string): Promise<PersonCard | null> {
    return this.host.index().people.has(id) ? (await this.cards())(id) : null;
  }

  /** Makes cards; what they are made from is read once. */
  private async cards(): Promise<(id: string) => PersonCard> {
    const [index, naming] = [this.host.index(), this.host.naming()];
    const sources = new Map((await this.host.sources()).map(({ id, name }) => [id, name]));
    const knownIn = new Map<string, Set<string>>();
    for (const { record } of index.stores)
      for (const { id } of record.people) {
        const known = knownIn.get(id) ?? new Set();
        knownIn.set(id, known.add(sources.get(record.sourceId) ?? record.sourceId));
      }
    const lines = new Map(index.conversations.map((row) => [row.id, row.summary.count]));
    return (id) => {
      const name = naming.person(id);
      const members = naming.members(id);
      const addresses = members
        .filter((member) => member !== OWNER)
        .map((member): AddressRow => ({
          id: member,
          shown: naming.shown(member) || member,
          sources: [...(knownIn.get(member) ?? [])],
          name: index.people.get(member)?.name ?? null
        }));
      return {
        id: members[0]!,
        name,
        named: name !== naming.shown(members[0]!),
        isOwner: members.includes(OWNER),
        addresses,
        joins: (index.individuals.get(id)?.joins ?? []).map((join) => this.row(join)),
        lines: lines.get(members[0]!) ?? 0
      };
    };
  }

  private row({ a, b, reason, text }: Join): JoinRow {
    return { a, b, aShown: this.shown(a), bShown: this.shown(b), reason, text };
  }

  private shown(id: string): string {
    const naming = this.host.naming();
    if (id === OWNER) return `${naming.person(id)}, the owner`;
    const address = naming.shown(id) || id;
    const name = this.host.index().people.get(id)?.name;
    return name && name !== address ? `${name}, ${address}` : address;
  }

  async join(a: string, b: string): Promise<void> {
    if (a === b) return;
    await this.decide(({ together, apart }) => {
      const [own, other] = [this.members(a), this.members(b)];
      const isBetween = ([x, y]: [string, string]): boolean =>
        (own.includes(x) && other.includes(y)) || (own.includes(y) && other.includes(x));
      return {
        together: [...together, [a, b]],
        apart: apart.filter((pair) => !isBetween(pair))
      };
    });
    await this.log('people joined', a, b);
  }

  async takeOut(id: string): Promise<void> {
    const others = this.members(id).filter((member) => member !== id);
    await this.part(others.map((other): [string, string] => [id, other]));
    await this.log('people parted', id, others[0] ?? id);
  }

  async keepApart(a: string, b: string): Promise<void> {
    await this.part([[a, b]]);
    await this.log('people parted', a, b);
  }

  async setOwner(id: string, isOwner: boolean): Promise<void> {
    if (isOwner) await this.join(OWNER, id);
    else await this.takeOut(id);
  }

  private part(pairs: [string, string][]): Promise<void> {
    const isParted = (x: string, y: string): boolean =>
      pairs.some(([a, b]) => (a === x && b === y) || (a === y && b === x));
    return this.decide(({ together, apart }) => ({
      together: together.filter(([x, y]) => !isParted(x, y)),
      apart: [...apart.filter(([x, y]) => !isParted(x, y)), ...pairs]
    }));
  }

  private members(id: string): readonly string[] {
    return this.host.naming().members(id);
  }

  private decide(change: (kept: Decisions) => Decisions): Promise<void> {
    return this.host.change(({ decisions = UNDECIDED }) => ({ decisions: change(decisions) }));
  }

  private log(what: 'people joined' | 'people parted', a: string, b: string): Promise<void> {
    return logAct(this.host.record().id, what, { one: this.shown(a), other: this.shown(b) });
  }

  async importNames(text: string, file: string): Promise<NamesImport> {
    try {
      const { named: found, unused } = readNames(text);
      const before = this.named();
      await this.host.change(({ book = [] }) => ({ book: [...book, ...found] }));
      await logAct(this.host.record().id, 'names imported', { file, names: found.length });
      return { ok: true, names: found.length, used: this.named() - before, unused };
    } catch (error) {
      if (!(error instanceof NamesError)) throw error;
      return { ok: false, reason: `${file}: ${error.message}` };
    }
  }

  private named(): number {
    return [...this.host.index().people.values()].filter(({ name }) => name !== null).length;
  }

  async forgetNames(): Promise<void> {
    const names = this.host.record().book?.length ?? 0;
    await this.host.change(() => ({ book: [] }));
    await logAct(this.host.record().id, 'names forgotten', { names });
  }
}
