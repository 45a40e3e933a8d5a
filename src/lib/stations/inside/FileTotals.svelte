<script lang="ts">
  import { bytes, count, plural } from '$lib/format';
  import type { InsideView } from '$lib/service/api/protocol';

  const { view }: { view: InsideView } = $props();

  const WORDS = { commit: 'committed', open: 'never committed', older: 'from before a restart' };
  const most = $derived(Math.max(1, ...view.log.map(({ frames }) => frames)));
  const space = $derived(view.space);
</script>

<h2>Freed space</h2>
<dl>
  <dt>free blocks</dt>
  <dd>
    {count(space.blocks)} on {plural(space.blockPages, 'page')}, {bytes(space.blockBytes)}
  </dd>
  <dt>unallocated</dt>
  <dd>{bytes(space.unallocatedBytes)}</dd>
  <dt>free pages</dt>
  <dd>
    {count(space.freePages)}{space.trunks > 0 ? `, of them ${plural(space.trunks, 'trunk')}` : ''}
  </dd>
</dl>
<h2>Log, oldest to newest commit</h2>
{#if view.log.length === 0}
  <p>No write-ahead log lies beside the file.</p>
{:else}
  <ol>
    {#each view.log as stretch, i (i)}
      <li
        class={stretch.kind}
        title="{plural(stretch.frames, 'page')}, {WORDS[stretch.kind]}{stretch.recovered > 0
          ? `; ${plural(stretch.recovered, 'record')} recovered`
          : ''}"
      >
        <i style:height="{Math.max(4, (stretch.frames / most) * 34)}px"></i>
        {#if stretch.recovered > 0}<b></b>{/if}
        <span class="visually-hidden"
          >{plural(stretch.frames, 'page')}, {WORDS[stretch.kind]}, {stretch.recovered} recovered</span
        >
      </li>
    {/each}
  </ol>
  <p>
    {plural(view.log.filter(({ kind }) => kind === 'commit').length, 'commit')}; a bar is as high as
    its pages are many, ochre where something was recovered
  </p>
{/if}

<style>
  h2 {
    font: 600 12px var(--font-plain);
    color: var(--soft);
    margin: 18px 0 6px;
  }
  dl {
    display: grid;
    grid-template-columns: 104px 1fr;
    margin: 0;
    font-size: 12.5px;
  }
  dt,
  dd {
    margin: 0;
    padding: 4px 0;
    border-bottom: 1px solid var(--hair);
  }
  dt,
  p {
    color: var(--soft);
  }
  p {
    font-size: 12px;
    margin: 4px 0 0;
  }
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
    display: flex;
    align-items: flex-end;
    gap: 2px;
    height: 42px;
    overflow: hidden;
    border-bottom: 1px solid var(--rule);
  }
  li {
    flex: 1 1 6px;
    max-width: 14px;
    min-width: 1px;
    display: flex;
    flex-direction: column-reverse;
  }
  i {
    display: block;
    background: color-mix(in srgb, var(--bar) 62%, var(--paper));
  }
  .open i {
    background: var(--plum-bar);
  }
  .older i {
    background: color-mix(in srgb, var(--slate) 40%, var(--paper));
  }
  b {
    display: block;
    height: 5px;
    background: var(--ochre-bar);
  }
</style>
