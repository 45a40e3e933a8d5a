<script lang="ts">
  import { untrack } from 'svelte';
  import { get } from 'svelte/store';
  import type { VirtualItem } from '@tanstack/svelte-virtual';
  import { withDays } from '$lib/day';
  import { errorText, plural } from '$lib/format';
  import { Choosing } from '$lib/stations/read/choosing.svelte';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { ALL_MEDIA } from '$lib/stations/read/media-filter';
  import { SheetWindow } from '$lib/stations/read/sheet.svelte';
  import { stripsOf } from '$lib/stations/read/strips';
  import { viewer } from '$lib/state/viewer.svelte';
  import type { MediaDay, MediaFilter, MediaRow } from '$lib/service/api/media-api';
  import MediaFilters from './MediaFilters.svelte';
  import MediaTile from './MediaTile.svelte';
  import { virtualRows } from './virtual.svelte';

  const { open, query }: { open: OpenCase; query: string } = $props();

  const choosing = new Choosing(() => open, 'files');
  const files = new SheetWindow(() => open.desk);
  let filter = $state.raw<MediaFilter>(ALL_MEDIA);
  /** Where the next choice with shift begins. */
  let anchor = $state<number | null>(null);
  let box = $state<HTMLDivElement>();
  let width = $state(1000);
  let height = $state(600);

  const TILE = 160;
  const ROW = 222;
  const OVERSCAN = 3;

  function report(error: unknown): void {
    open.failure = `The media could not be read: ${errorText(error)}`;
  }

  $effect(() => {
    void open.version;
    anchor = null;
    files.show({ ...filter, query }).catch(report);
  });

  const columns = $derived(Math.max(1, Math.floor((width - 28) / TILE)));
  const strips = $derived(stripsOf(files.sheet?.days ?? [], columns));

  const virtual = virtualRows<HTMLDivElement, HTMLDivElement>({
    box: () => box,
    count: () => strips.length,
    height: ROW,
    overscan: OVERSCAN
  });
  // Other columns give other heights.
  $effect(() => {
    void strips;
    untrack(() => get(virtual).measure());
  });

  /** Strips that can be in view at once, with those kept ready above and below. */
  const pool = $derived(Math.ceil(height / ROW) + 2 * OVERSCAN + 2);
  let held: (VirtualItem | undefined)[] = [];
  $effect.pre(() => {
    void [strips, pool];
    held = [];
  });
  /** Strips that scroll out give their elements to those that come: to make new ones costs frames. */
  const slots = $derived.by(() => {
    void strips;
    const items = $virtual.getVirtualItems();
    const next = [...held];
    for (const item of items) next[item.index % pool] = item;
    held = next;
    return Array.from(next);
  });

  /** The file, asked for again whenever a page has arrived. */
  function rowAt(at: number, _arrived: number): MediaRow | undefined {
    return files.get(at);
  }

  async function choose(at: number, row: MediaRow, toHere: boolean): Promise<void> {
    const from = toHere && anchor !== null ? anchor : at;
    const keys =
      from === at ? [row.key] : await files.keys(Math.min(from, at), Math.max(from, at) + 1);
    choosing.choose(keys, toHere || !choosing.ids.has(row.key));
    anchor = at;
  }

  async function chooseDay({ from, count: n }: MediaDay): Promise<void> {
    choosing.choose(await files.keys(from, from + n), true);
  }

  /** Opens a file among those around it. */
  function look(at: number): void {
    const around: MediaRow[] = [];
    let place = 0;
    for (let i = Math.max(0, at - 200); i < Math.min(files.sheet!.total, at + 200); i++) {
      const row = files.get(i);
      if (!row || row.missing) continue;
      if (i === at) place = around.length;
      around.push(row);
    }
    if (around.length > 0) viewer.open(around, place);
  }
</script>

<main aria-label="Media">
  {#if files.sheet}
    <MediaFilters
      {open}
      {filter}
      sheet={files.sheet}
      chosen={choosing.ids.size}
      onchange={(change) => (filter = { ...filter, ...change })}
    />
    {#if files.sheet.total === 0}
      <p class="none">
        {query.trim() === '' && files.sheet.pictures === 0
          ? 'No pictures, videos or sound recordings were found in the sources of this case. They lie beside the message database, in its folder or backup: add the whole folder.'
          : 'No media match what the sheet is narrowed to.'}
      </p>
    {/if}
  {/if}
  <div class="scroll" bind:this={box} bind:clientWidth={width} bind:clientHeight={height}>
    <div class="inner" style:height="{$virtual.getTotalSize()}px">
      {#each slots as item, slot (slot)}
        {@const strip = item && strips[item.index]}
        {#if strip}
          <div class="strip" style:transform="translateY({item.start}px)">
            {#each strip as { day, from, to }, part (part)}
              <section style:width="{(to - from) * TILE - 12}px">
                <h2>
                  {#if day}
                    {withDays(day.day)}
                    {#if day.count > 1}<small>{plural(day.count, 'file')}</small>{/if}
                    <button
                      class="day"
                      onclick={() => void chooseDay(day).catch(report)}
                      aria-label="Select the files of {withDays(day.day)}">select</button
                    >
                  {/if}
                </h2>
                <div class="tiles" role="list">
                  {#each { length: to - from }, i (i)}
                    {@const at = from + i}
                    {@const row = rowAt(at, files.arrived)}
                    {#if row}
                      <MediaTile
                        {row}
                        {open}
                        chosen={choosing.ids.has(row.key)}
                        onchoose={(toHere) => void choose(at, row, toHere).catch(report)}
                        onopen={() => look(at)}
                      />
                    {:else}<div class="waiting"></div>{/if}
                  {/each}
                </div>
              </section>
            {/each}
          </div>
        {/if}
      {/each}
    </div>
  </div>
</main>

<style>
  main {
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
    background: var(--sheet);
  }
  .scroll {
    flex: 1;
    min-height: 0;
    overflow: auto;
  }
  .inner {
    position: relative;
  }
  .strip {
    position: absolute;
    inset: 0 20px auto;
    height: 206px;
    contain: strict;
    display: flex;
    gap: 12px;
  }
  h2 {
    font-size: 14px;
    height: 28px;
    line-height: 26px;
    border-bottom: 1px solid var(--rule);
    margin-bottom: 8px;
    white-space: nowrap;
    overflow: hidden;
  }
  small {
    font: 11.5px var(--font-plain);
    color: var(--soft);
    margin-left: 8px;
  }
  .tiles {
    display: flex;
    gap: 12px;
  }
  .day {
    font: 12px var(--font-plain);
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
    margin-left: 8px;
  }
  .waiting {
    width: 148px;
    height: 112px;
    background: var(--paper);
  }
  .none {
    padding: 40px 20px;
    font: 15px var(--font-text);
    color: var(--soft);
  }
</style>
