import { OWNER, type Person } from '$core/records';
import { shownAddress, type Correspondent } from '$core/threads';

/** Resolves people to the names that the case knows. */
export class Naming {
  constructor(
    private readonly people: ReadonlyMap<string, Person>,
    private readonly names: Record<string, string>,
    private readonly owner: string
  ) {}

  person(id: string | null): string {
    if (id === null) return 'unknown sender';
    if (id === OWNER) return this.owner || 'owner';
    return this.names[id] || this.people.get(id)?.name || this.shown(id);
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
}
