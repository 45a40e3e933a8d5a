<script lang="ts" generics="Row extends { id: string; state: RecordState }">
  import type { Snippet } from 'svelte';
  import type { RecordState } from '$core/records';
  import { nextOrder, sortedRows, type Order, type Sorter } from '$lib/stations/read/sorted-rows';
  import { markOf } from '../../ui/marks';
  import { virtualRows } from './virtual.svelte';

  interface Props {
    rows: Row[];
    columns: string[];
    /** Widths of the columns, as a grid template. */
    template: string;
    label: string;
    empty: string;
    cells: Snippet<[Row]>;
    /** Stands for the mark of the state, where rows have none. */
    glyph?: string;
    /** Ids of the rows that are chosen; absent where rows cannot be chosen. */
    chosen?: ReadonlySet<string>;
    onchoose?: (ids: string[], chosen: boolean) => void;
    /** What each column is ordered by; absent where rows have one order. */
    sorters?: readonly Sorter<Row>[];
  }
  const {
    rows: given,
    columns,
    template,
    label,
    empty,
    cells,
    glyph,
    chosen,
    onchoose,
    sorters = []
  }: Props = $props();

  let order = $state.raw<Order | null>(null);
  const rows = $derived(sortedRows(given, sorters, order));

  /** Where the next choice with shift begins. */
  let anchor = $state<number | null>(null);
  const all = $derived(
    chosen !== undefined && rows.length > 0 && rows.every(({ id }) => chosen.has(id))
  );

  function choose(index: number, toHere: boolean): void {
    const from = toHere && anchor !== null ? anchor : index;
    const [first, last] = [Math.min(from, index), Math.max(from, index)];
    const ids = rows.slice(first, last + 1).map(({ id }) => id);
    onchoose?.(ids, toHere || !chosen!.has(rows[index]!.id));
    anchor = index;
  }

  let box = $state<HTMLDivElement>();
  const HEIGHT = 34;
  const virtual = virtualRows<HTMLDivElement, HTMLDivElement>({
    box: () => box,
    count: () => rows.length,
    height: HEIGHT
  });
</script>

<div
  class="table"
  role="table"
  aria-label={label}
  aria-rowcount={rows.length + 1}
  style:--columns="{chosen ? '22px ' : ''}28px {template}"
>
  <div class="row head" role="row" aria-rowindex={1}>
    {#if chosen}
      <span role="columnheader"
        ><input
          type="checkbox"
          checked={all}
          disabled={rows.length === 0}
          aria-label="Select all {rows.length} rows shown"
          title="Select all shown"
          onchange={() =>
            onchoose?.(
              rows.map(({ id }) => id),
              !all
            )}
        /></span
      >
    {/if}
    <span role="columnheader"><span class="visually-hidden">State</span></span>
    {#each columns as column, i (i)}
      {#if sorters[i]}
        {@const own = order?.column === i ? order : null}
        <span
          role="columnheader"
          aria-sort={own ? (own.isDown ? 'descending' : 'ascending') : 'none'}
          ><button class="sort" onclick={() => (order = nextOrder(order, i))}
            >{column}{own ? (own.isDown ? ' ↓' : ' ↑') : ''}</button
          ></span
        >
      {:else}<span role="columnheader">{column}</span>{/if}
    {/each}
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="box" bind:this={box} tabindex="0" role="rowgroup">
    {#if rows.length === 0}<p class="none">{empty}</p>{/if}
    <div style:height="{$virtual.getTotalSize()}px" class="inner">
      {#each $virtual.getVirtualItems() as item (item.index)}
        {@const row = rows[item.index]}
        {#if row}
          <div
            class="row {row.state}"
            class:chosen={chosen?.has(row.id)}
            role="row"
            aria-rowindex={item.index + 2}
            style:transform="translateY({item.start}px)"
            style:height="{HEIGHT}px"
          >
            {#if chosen}
              <span role="cell"
                ><input
                  type="checkbox"
                  checked={chosen.has(row.id)}
                  aria-label="Select row {item.index + 1}"
                  onclick={(event) => {
                    event.preventDefault();
                    choose(item.index, event.shiftKey);
                  }}
                /></span
              >
            {/if}
            <span role="cell" class="glyph" title={glyph ? label : row.state}
              >{glyph ?? markOf(row.state)}<span class="visually-hidden"
                >{glyph ? '' : row.state}</span
              ></span
            >
            {@render cells(row)}
          </div>
        {/if}
      {/each}
    </div>
  </div>
</div>

<style>
  .table {
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
    overflow-x: auto;
    font-size: 13px;
  }
  .row {
    display: grid;
    grid-template-columns: var(--columns);
    gap: 0 14px;
    align-items: center;
    padding: 0 20px;
    min-width: 640px;
  }
  .head {
    color: var(--soft);
    border-bottom: 1px solid var(--rule);
    padding-block: 7px 5px;
    flex: none;
  }
  .box {
    flex: 1;
    min-height: 0;
    overflow: auto;
  }
  .inner {
    position: relative;
  }
  .inner .row {
    position: absolute;
    inset: 0 0 auto;
    border-bottom: 1px solid var(--hair);
  }
  .inner .row.chosen {
    box-shadow: inset 4px 0 var(--accent);
  }
  .sort {
    color: inherit;
    cursor: pointer;
    text-align: left;
  }
  .sort:hover {
    color: var(--ink);
  }
  input {
    accent-color: var(--accent);
    cursor: pointer;
  }
  .row :global([role='cell']) {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    font-variant-numeric: tabular-nums;
  }
  .glyph {
    color: var(--tone);
    text-align: center;
  }
  @media (max-width: 600px) {
    .row {
      padding: 0 10px;
      gap: 0 8px;
    }
  }
  .none {
    padding: 40px 20px;
    font: 15px var(--font-text);
    color: var(--soft);
  }
</style>
