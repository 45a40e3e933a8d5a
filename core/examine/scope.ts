import type { Depth } from '../records';
import type { Kind, Want } from './types';

/** How far an examination went, as plain data that can be kept and compared. */
export interface Scope {
  depth: Depth;
  kinds: Kind[];
  /** Milliseconds since 1970, both included; null is open. */
  from: number | null;
  to: number | null;
  /** Only conversations with these addresses; empty for all. */
  addresses: string[];
}

export function scopeOf({ kinds, from, to, addresses }: Want, depth: Depth): Scope {
  return { depth, kinds: [...kinds], from, to, addresses: [...addresses] };
}

export function wantOf({ kinds, from, to, addresses }: Omit<Scope, 'depth'>): Want {
  return { kinds: new Set(kinds), from, to, addresses };
}

const DEPTHS: readonly Depth[] = ['indexed', 'freed', 'whole'];

/** Whether an examination looked for all that another one looked for, as deep or deeper. */
export function covers(wide: Scope, narrow: Scope): boolean {
  const kinds = new Set(wide.kinds);
  return (
    DEPTHS.indexOf(wide.depth) >= DEPTHS.indexOf(narrow.depth) &&
    narrow.kinds.every((kind) => kinds.has(kind)) &&
    (wide.from === null || (narrow.from !== null && wide.from <= narrow.from)) &&
    (wide.to === null || (narrow.to !== null && wide.to >= narrow.to)) &&
    (wide.addresses.length === 0 ||
      (narrow.addresses.length > 0 &&
        narrow.addresses.every((address) => wide.addresses.includes(address))))
  );
}

/** The scopes of what is kept once another examination's findings were put to it. */
export function withScope(kept: readonly Scope[], scope: Scope): Scope[] {
  if (kept.some((known) => covers(known, scope))) return [...kept];
  return [...kept.filter((known) => !covers(scope, known)), scope];
}
