import { u32be } from '../../host';
import type { PageSet } from './pages';

export interface OverflowChain {
  /** As many bytes of the payload as could be gathered. */
  payload: Uint8Array;
  complete: boolean;
  /**
   * How many of them are sure: a page whose link leads nowhere, or goes on
   * where the payload ends, was written over.
   */
  sound: number;
  pages: number[];
}

/**
 * Gathers a payload that spills onto overflow pages (file format, section
 * 1.6). Bounded by the payload's own length, so a loop of pages ends.
 * `mayUse` lets recovery refuse pages that now belong to something else.
 */
export function gatherOverflow(
  pages: PageSet,
  local: Uint8Array,
  total: number,
  first: number,
  mayUse: (page: number) => boolean = () => true
): OverflowChain {
  const room = pages.usable - 4;
  const wanted = Math.min(total, local.length + room * pages.pageCount);
  const parts: Uint8Array[] = [local];
  const used: number[] = [];
  const seen = new Set<number>();
  let have = local.length;
  let next = first;
  let sound = have;
  while (
    pages.linksHold &&
    have < wanted &&
    pages.inRange(next) &&
    !seen.has(next) &&
    mayUse(next)
  ) {
    const page = pages.page(next);
    if (!page) break;
    seen.add(next);
    used.push(next);
    const expected = Math.min(room, wanted - have);
    // A file that is cut ends within a page: zeros that fill it up are no payload.
    const take = Math.max(0, Math.min(expected, pages.end(next) - 4));
    parts.push(page.subarray(4, 4 + take));
    have += take;
    if (take < expected) {
      sound = have;
      break;
    }
    next = u32be(page, 0);
    const isLinked = have === total ? next === 0 : next > 1 && next <= pages.statedCount;
    if (isLinked) sound = have;
  }
  return { payload: join(parts, have), complete: have === total, sound, pages: used };
}

function join(parts: Uint8Array[], size: number): Uint8Array {
  const out = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
