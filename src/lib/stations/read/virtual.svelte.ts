import { createVirtualizer, type SvelteVirtualizer } from '@tanstack/svelte-virtual';
import { untrack } from 'svelte';
import { get, type Readable } from 'svelte/store';

/** What a virtual list is made of. */
interface VirtualRows<Box> {
  /** The element that scrolls, once it is there. */
  box: () => Box | undefined;
  count: () => number;
  /** Pixels that a row is high, or is likely to be. */
  height: number;
  /** Rows that are kept ready above and below what is seen. */
  overscan?: number;
}

/** A virtual list that keeps to the number of its rows; to be made while a component is set up. */
export function virtualRows<Box extends HTMLElement, Row extends HTMLElement>({
  box,
  count,
  height,
  overscan = 12
}: VirtualRows<Box>): Readable<SvelteVirtualizer<Box, Row>> {
  const virtual = createVirtualizer<Box, Row>({
    count: 0,
    getScrollElement: () => box() ?? null,
    estimateSize: () => height,
    overscan
  });
  $effect(() => {
    const [element, rows] = [box(), count()];
    untrack(() => {
      if (element) get(virtual).setOptions({ count: rows, getScrollElement: () => element });
    });
  });
  return virtual;
}
