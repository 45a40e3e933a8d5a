import type { SvelteVirtualizer } from '@tanstack/svelte-virtual';
import { untrack } from 'svelte';
import { get, type Readable } from 'svelte/store';

/** Keeps a virtual list at the number of its rows, once the element that scrolls is there. */
export function followCount<Box extends HTMLElement, Row extends HTMLElement>(
  virtualizer: Readable<SvelteVirtualizer<Box, Row>>,
  box: () => Box | undefined,
  count: () => number
): void {
  $effect(() => {
    const [element, rows] = [box(), count()];
    untrack(() => {
      if (element) get(virtualizer).setOptions({ count: rows, getScrollElement: () => element });
    });
  });
}
