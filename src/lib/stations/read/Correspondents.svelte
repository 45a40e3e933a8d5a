<script lang="ts">
  import { untrack } from 'svelte';
  import { get } from 'svelte/store';
  import { count, plural } from '$lib/format';
  import { arranged } from '$lib/stations/read/correspondents';
  import { KINDS, reading, SORTS } from '$lib/state/reading.svelte';
  import type { CorrespondentRow } from '$lib/service/api/protocol';
  import { virtualRows } from './virtual.svelte';

  interface Props {
    rows: CorrespondentRow[];
    selected: string | null;
    onselect: (id: string) => void;
  }
  const { rows, selected, onselect }: Props = $props();

  const HEIGHT = 66;

  const lists = $derived(arranged(rows, reading.sort, reading.kind));
  let opened = $state(false);
  /** Notices are open where somebody looks for one of them, or where there is nothing else. */
  const isOpen = $derived(
    opened ||
      lists.rows.length === 0 ||
      reading.query.trim() !== '' ||
      lists.notices.some(({ id }) => id === selected)
  );
  type Item = CorrespondentRow | { id: 'notices'; count: number; lines: number };
  const items = $derived.by((): Item[] => {
    const { rows, notices } = lists;
    if (notices.length === 0) return rows;
    const lines = notices.reduce((sum, row) => sum + row.lines, 0);
    const head: Item = { id: 'notices', count: notices.length, lines };
    return isOpen ? [...rows, head, ...notices] : [...rows, head];
  });

  let box = $state<HTMLElement>();
  const virtual = virtualRows<HTMLElement, HTMLLIElement>({
    box: () => box,
    count: () => items.length,
    height: HEIGHT
  });

  /** Who was turned to by keys may stand out of view. */
  $effect(() => {
    const at = items.findIndex(({ id }) => id === selected);
    if (at >= 0) untrack(() => get(virtual).scrollToIndex(at, { align: 'auto' }));
  });

  /** The bars of some counts as one path: a list of many people draws thousands. */
  function bars(counts: readonly number[], top: number): string {
    return counts.map((n, i) => (n === 0 ? '' : bar(i * 4, 2 + (10 * n) / top))).join('');
  }

  function bar(x: number, height: number): string {
    return `M${x} 12h3v${-height.toFixed(1)}h-3z`;
  }

  function measure(element: HTMLLIElement): void {
    get(virtual).measureElement(element);
  }
</script>

<nav class="people" aria-label="Correspondents">
  <div class="order">
    <select class="field" aria-label="Order of correspondents" bind:value={reading.sort}>
      {#each Object.entries(SORTS) as [sort, words] (sort)}<option value={sort}>{words}</option
        >{/each}
    </select>
    <select class="field" aria-label="Kind of correspondents" bind:value={reading.kind}>
      {#each Object.entries(KINDS) as [kind, words] (kind)}<option value={kind}>{words}</option
        >{/each}
    </select>
  </div>
  <div class="list" bind:this={box}>
    <ul style:height="{$virtual.getTotalSize()}px">
      {#each $virtual.getVirtualItems() as item (item.key)}
        {@const row = items[item.index]}
        {#if row && 'count' in row}
          <li data-index={item.index} style:transform="translateY({item.start}px)" use:measure>
            <button class="notices" aria-expanded={isOpen} onclick={() => (opened = !isOpen)}>
              <span class="name"
                ><b>Automated messages</b><small
                  >codes, offers and the like from {plural(row.count, 'sender')}</small
                ></span
              ><span class="n">{count(row.lines)}<br />{isOpen ? 'close' : 'open'}</span>
            </button>
          </li>
        {:else if row}
          {@const top = Math.max(1, ...row.density)}
          <li
            data-index={item.index}
            aria-setsize={items.length}
            aria-posinset={item.index + 1}
            style:transform="translateY({item.start}px)"
            use:measure
          >
            <button
              class:on={row.id === selected}
              aria-current={row.id === selected ? 'true' : undefined}
              onclick={() => onselect(row.id)}
            >
              <span class="name"><b><bdi>{row.name}</bdi></b><small>{row.detail}</small></span>
              <span class="n"
                >{count(row.lines)}{#if row.notLive > 0}<br /><em
                    ><span aria-hidden="true">◆</span>
                    {count(row.notLive)}<span class="visually-hidden"> deleted or changed</span></em
                  >{/if}</span
              >
              <svg viewBox="0 0 226 13" preserveAspectRatio="none" aria-hidden="true">
                <path d={bars(row.density, top)} fill="var(--bar)" opacity="0.65" />
                <path d={bars(row.densityNotLive, top)} fill="var(--ochre-bar)" />
              </svg>
            </button>
          </li>
        {/if}
      {/each}
    </ul>
    {#if items.length === 0}
      <p class="none">No correspondent matches.</p>
    {/if}
  </div>
</nav>

<style>
  .people {
    border-right: 1px solid var(--rule);
    min-height: 0;
    display: flex;
    flex-direction: column;
  }
  .list {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  .order {
    display: grid;
    grid-template-columns: minmax(0, 1.65fr) minmax(0, 1fr);
    gap: 6px;
    padding: 6px 14px 6px 20px;
    border-bottom: 1px solid var(--rule);
    flex: none;
  }
  .order select {
    padding: 2px 4px;
    font-size: 12px;
    min-width: 0;
  }
  .notices {
    background: var(--paper);
  }
  ul {
    position: relative;
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    position: absolute;
    inset: 0 0 auto;
  }
  button {
    all: unset;
    box-sizing: border-box;
    width: 100%;
    cursor: pointer;
    padding: 9px 14px 8px 20px;
    border-bottom: 1px solid var(--hair);
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 0 8px;
  }
  button:hover {
    background: var(--sheet);
  }
  button.on {
    background: var(--accent-wash);
    box-shadow: inset 3px 0 var(--accent);
  }
  button:focus-visible {
    outline: 2px solid var(--accent);
    outline-offset: -2px;
  }
  .name {
    min-width: 0;
  }
  b {
    display: block;
    font: 600 14.5px/1.35 var(--font-text);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  small {
    color: var(--soft);
    font-size: 11.5px;
  }
  .n {
    white-space: nowrap;
    font-size: 12px;
    color: var(--soft);
    text-align: right;
    font-variant-numeric: tabular-nums;
  }
  em {
    font-style: normal;
    color: var(--ochre);
    font-weight: 600;
  }
  svg {
    grid-column: 1 / 3;
    margin-top: 4px;
    width: 100%;
    height: 13px;
  }
  .none {
    margin: 0;
    padding: 16px 20px;
    color: var(--soft);
  }
</style>
