<script lang="ts">
  import { bytes, date } from '$lib/format';
  import type { CopyRecord, SourceRecord } from '$lib/storage/schema';

  interface Props {
    sources: readonly SourceRecord[];
    broken: readonly CopyRecord[];
    isBusy: boolean;
    onresume: (copy: CopyRecord) => void;
    onthrow: (copy: CopyRecord) => void;
    onsave: (source: SourceRecord) => void;
    onexamine: (source: SourceRecord) => void;
  }
  const { sources, broken, isBusy, onresume, onthrow, onsave, onexamine }: Props = $props();

  const DEPTHS = { logical: 'logical', 'file-system': 'file system', physical: 'physical' };
</script>

{#each broken as copy (copy.key)}
  <div class="broken">
    <b
      >{DEPTHS[copy.depth]}, {Math.floor((100 * copy.done) / Math.max(1, copy.total))} % of {bytes(
        copy.total
      )}</b
    >
    <p>{copy.message ?? 'It was cut off; what was copied is kept.'}</p>
    <div class="row">
      <button class="action" disabled={isBusy} onclick={() => onresume(copy)}
        >Resume the copy</button
      >
      <button class="action quiet" disabled={isBusy} onclick={() => onthrow(copy)}
        >Discard it</button
      >
    </div>
  </div>
{/each}
{#each sources as source (source.id)}
  <div class="whole">
    <b>{DEPTHS[source.copied!.depth]}</b>, {date(source.copied!.at)}
    <small
      >{bytes(source.files.reduce((sum, file) => sum + file.bytes, 0))}, verified; in this case as “{source.name}”</small
    >
    <div class="row">
      {#if source.pass.state === 'none'}
        <button class="action" onclick={() => onexamine(source)}>Examine it</button>
      {/if}
      <button class="action quiet" onclick={() => onsave(source)}>Save it to disk</button>
    </div>
  </div>
{/each}
{#if sources.length + broken.length === 0}<p class="soft">none from here yet</p>{/if}

<style>
  .broken {
    border-left: 3px solid var(--ochre-bar);
    background: var(--ochre-wash);
    padding: 7px 12px;
    margin: 6px 0;
  }
  .whole {
    padding: 7px 0;
    border-bottom: 1px solid var(--hair);
  }
  p {
    margin: 3px 0 6px;
  }
  small {
    display: block;
    color: var(--soft);
    font-size: 12px;
    margin-bottom: 5px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .row .action {
    padding: 2px 9px;
  }
</style>
