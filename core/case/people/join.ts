import { OWNER } from '../../records';
import type { Decisions, Individual, Join, JoinedPeople } from './model';

/**
 * Joins addresses to individuals: first what was decided by hand, then what is
 * sure. Two that were parted by hand never come into one individual.
 */
export function joinPeople(found: readonly Join[], decisions: Decisions): JoinedPeople {
  const sets = new Sets(decisions.apart);
  for (const [a, b] of decisions.together)
    sets.unite({ a, b, reason: 'hand', text: 'Joined by hand.', isSure: true });
  const undone: Join[] = [];
  for (const join of found) if (join.isSure && !sets.unite(join)) undone.push(join);
  const isParted = (join: Join): boolean => !sets.mayUnite(join.a, join.b);
  return {
    individuals: sets.individuals(),
    undone,
    proposals: found.filter(
      (join) => !join.isSure && !sets.areOne(join.a, join.b) && !isParted(join)
    )
  };
}

/** Sets of ids that are one, each with the joins that made it. */
class Sets {
  private readonly setOf = new Map<string, { members: Set<string>; joins: Join[] }>();
  private readonly apart = new Map<string, Set<string>>();

  constructor(apart: Decisions['apart']) {
    for (const [a, b] of apart) {
      this.apartOf(a).add(b);
      this.apartOf(b).add(a);
    }
  }

  private apartOf(id: string): Set<string> {
    let known = this.apart.get(id);
    if (!known) this.apart.set(id, (known = new Set()));
    return known;
  }

  private of(id: string): { members: Set<string>; joins: Join[] } {
    let known = this.setOf.get(id);
    if (!known) this.setOf.set(id, (known = { members: new Set([id]), joins: [] }));
    return known;
  }

  areOne(a: string, b: string): boolean {
    return this.of(a) === this.of(b);
  }

  mayUnite(a: string, b: string): boolean {
    const others = this.of(b).members;
    for (const member of this.of(a).members)
      for (const parted of this.apart.get(member) ?? []) if (others.has(parted)) return false;
    return true;
  }

  /** Whether they are one now. */
  unite(join: Join): boolean {
    const [into, from] = [this.of(join.a), this.of(join.b)];
    if (into === from) {
      if (!into.joins.some(({ a, b }) => a === join.a && b === join.b)) into.joins.push(join);
      return true;
    }
    if (!this.mayUnite(join.a, join.b)) return false;
    into.joins.push(join, ...from.joins);
    for (const member of from.members) {
      into.members.add(member);
      this.setOf.set(member, into);
    }
    return true;
  }

  individuals(): Individual[] {
    const sets = new Set([...this.setOf.values()].filter(({ members }) => members.size > 1));
    return [...sets].map(({ members, joins }) => {
      const sorted = [...members].sort(byKind);
      return { id: sorted[0]!, members: sorted, joins };
    });
  }
}

/** The owner, then telephone numbers, then what else there is. */
function byKind(a: string, b: string): number {
  const rank = (id: string): number => (id === OWNER ? 0 : id.startsWith('p:+') ? 1 : 2);
  return rank(a) - rank(b) || (a < b ? -1 : 1);
}
