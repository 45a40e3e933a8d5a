<script lang="ts">
  import { createVirtualizer } from '@tanstack/svelte-virtual';
  import { untrack } from 'svelte';
  import { get } from 'svelte/store';
  import type { CellSpan } from '$core/sqlite';
  import type { InsidePage } from '$lib/service/api/protocol';

  interface Props {
    page: InsidePage;
    spans: CellSpan[];
    /** First byte of the cell, to be brought into view; null for a page alone. */
    start: number | null;
    title: string;
  }
  const { page, spans, start, title }: Props = $props();

  const WIDTH = 16;
  const HEIGHT = 22;
  let box = $state<HTMLDivElement>();
  const virtual = createVirtualizer<HTMLDivElement, HTMLDivElement>({
    count: 0,
    getScrollElement: () => box ?? null,
    estimateSize: () => HEIGHT,
    overscan: 10
  });

  const kinds = $derived.by(() => {
    const of: (string | undefined)[] = [];
    let values = 0;
    for (const span of spans) {
      const name = span.kind === 'value' ? `value${values++ % 2}` : span.kind;
      for (let at = span.start; at < span.end; at++) of[at] = name;
    }
    return of;
  });

  $effect(() => {
    const lines = Math.ceil(page.bytes.length / WIDTH);
    const element = box;
    const first = start;
    untrack(() => {
      if (!element) return;
      const list = get(virtual);
      list.setOptions({ count: lines, getScrollElement: () => element });
      requestAnimationFrame(() => {
        const row = first === null ? 0 : Math.max(0, Math.floor(first / WIDTH) - 2);
        get(virtual).scrollToIndex(row, { align: 'start' });
      });
    });
  });

  function shown(byte: number): string {
    return byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·';
  }
</script>

<h2>{title}</h2>
<!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls takes the focus) -->
<div class="box" bind:this={box} tabindex="0" role="region" aria-label="Bytes of the page">
  <div style:height="{$virtual.getTotalSize()}px" class="inner">
    {#each $virtual.getVirtualItems() as item (item.index)}
      {@const from = item.index * WIDTH}
      {@const bytes = page.bytes.subarray(from, from + WIDTH)}
      <div class="row" style:transform="translateY({item.start}px)">
        <span class="at">{(page.offset + from).toString(16).toUpperCase().padStart(8, '0')}</span>
        <span class="hex"
          >{#each bytes as byte, i (i)}<i class={kinds[from + i] ?? 'plain'}
              >{byte.toString(16).padStart(2, '0')}</i
            >{/each}</span
        >
        <span class="text" aria-hidden="true"
          >{#each bytes as byte, i (i)}<i class={kinds[from + i] ?? 'plain'}>{shown(byte)}</i
            >{/each}</span
        >
      </div>
    {/each}
  </div>
</div>
<ul>
  <li><i class="lost">00</i> overwritten, rebuilt</li>
  <li><i class="length">00</i> length and rowid</li>
  <li><i class="header">00</i> record header</li>
  <li><i class="value0">00</i><i class="value1">00</i> values in turn</li>
  <li><i class="spill">00</i> next overflow page</li>
</ul>

<style>
  h2 {
    font: 600 13px var(--font-plain);
    margin: 0 0 8px;
  }
  .box {
    flex: 1;
    min-height: 0;
    overflow: auto;
  }
  .inner {
    position: relative;
    min-width: 560px;
  }
  .row {
    position: absolute;
    inset: 0 auto auto 0;
    height: 22px;
    display: flex;
    gap: 14px;
    font: 12px/22px var(--font-code);
    white-space: nowrap;
  }
  .at {
    color: var(--soft);
  }
  i {
    font-style: normal;
    display: inline-block;
    text-align: center;
    border-block: 1px solid transparent;
  }
  .hex i {
    width: 22px;
  }
  .text i {
    white-space: pre;
    width: 9px;
  }
  .plain {
    color: var(--soft);
  }
  .lost {
    background: var(--plum-wash);
    color: var(--plum);
    border-color: var(--plum-bar);
  }
  .length,
  .rowid {
    background: var(--slate-wash);
    border-color: var(--slate);
  }
  .header {
    background: var(--teal-wash);
    border-color: var(--teal);
  }
  .value0 {
    background: var(--ochre-wash);
    border-color: var(--ochre-bar);
  }
  .value1 {
    background: var(--accent-wash);
    border-color: var(--accent);
  }
  .spill {
    background: var(--hair);
    border-color: var(--soft);
    color: var(--ink);
  }
  ul {
    list-style: none;
    margin: 10px 0 0;
    padding: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
    font-size: 12px;
    color: var(--soft);
  }
  li i {
    color: var(--ink);
    font: 11px/16px var(--font-code);
    width: 22px;
  }
</style>
