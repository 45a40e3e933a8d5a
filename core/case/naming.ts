import type { Individual } from './people';
import { OWNER, type Person } from '../records';
import { shownAddress, type Correspondent } from '../messages';

/** Resolves people to the names that the case knows. */
export class Naming {
  constructor(
    private readonly people: ReadonlyMap<string, Person>,
    private readonly names: Record<string, string>,
    private readonly owner: string,
    /** Those of more than one address, by each of them. */
    private readonly individuals: ReadonlyMap<string, Individual> = new Map()
  ) {}

  person(id: string | null): string {
    if (id === null) return 'unknown sender';
    const members = this.members(id);
    if (members.includes(OWNER)) return this.owner || this.foundName(members) || 'owner';
    // What was typed stands before what was found.
    const given = members.map((one) => this.names[one]).find((name) => name);
    return given ?? this.foundName(members) ?? (this.shown(id) || id);
  }

  /** The addresses of a person, each by its id. */
  members(id: string): readonly string[] {
    return this.individuals.get(id)?.members ?? [id];
  }

  private foundName(members: readonly string[]): string | undefined {
    return members.map((one) => this.people.get(one)?.name).find((name) => name) ?? undefined;
  }

  address(id: string | null): string {
    return id === null ? '' : (this.people.get(id)?.addresses[0] ?? '');
  }

  /** The address as people write it. */
  shown(id: string | null): string {
    return shownAddress(this.address(id));
  }

  correspondent(row: Correspondent): string {
    if (!row.group) return this.person(row.participants[0] ?? null);
    return row.title || row.participants.map((id) => this.person(id)).join(', ');
  }

  /** Everything by which a person can be looked for: names given and found, and addresses. */
  *known(id: string): Generator<string> {
    yield this.person(id);
    for (const member of this.members(id)) {
      yield this.names[member] ?? '';
      yield this.people.get(member)?.name ?? '';
      yield this.address(member);
    }
  }
}
