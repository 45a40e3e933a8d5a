<script lang="ts">
  import { Tabs } from '@skeletonlabs/skeleton-svelte';
  import { count } from '$lib/format';
  import type { Facet, FacetCounts } from '$lib/service/api/protocol';

  const { counts }: { counts: FacetCounts } = $props();

  const FACETS: { facet: Facet; title: string }[] = [
    { facet: 'messages', title: 'Messages' },
    { facet: 'calls', title: 'Calls' },
    { facet: 'contacts', title: 'Contacts' },
    { facet: 'people', title: 'People' },
    { facet: 'media', title: 'Media' },
    { facet: 'documents', title: 'Documents' },
    { facet: 'files', title: 'Files' },
    { facet: 'gaps', title: 'Gaps' }
  ];
</script>

<Tabs.List class="facet-list" aria-label="Facets">
  {#each FACETS as { facet, title } (facet)}
    {@const { live, notLive } = counts[facet]}
    <Tabs.Trigger value={facet} class="facet">
      {title} <span class="n">{count(live + notLive)}</span>
      {#if notLive > 0}
        <span class="visually-hidden">, {count(notLive)} deleted or changed</span>
        <i class="share" aria-hidden="true" title="{count(notLive)} deleted or changed"
          ><b style:width="{(100 * notLive) / (live + notLive)}%"></b></i
        >
      {/if}
    </Tabs.Trigger>
  {/each}
</Tabs.List>

<style>
  :global(.facet-list) {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 4px;
    border: 0;
    margin: 0;
    padding: 0;
  }
  :global(.facet) {
    position: relative;
    gap: 3px;
    padding: 3px 8px 4px;
    border-radius: 0;
    border-bottom: 2px solid transparent;
    background: none;
    color: var(--soft);
    font: inherit;
    white-space: nowrap;
    cursor: pointer;
  }
  :global(.facet:hover) {
    color: var(--ink);
  }
  :global(.facet[data-selected]) {
    border-bottom-color: var(--accent);
    color: var(--ink);
    font-weight: 600;
  }
  .n {
    font-variant-numeric: tabular-nums;
  }
  /* How much of it is not as the app shows it, below the figure. */
  .share {
    position: absolute;
    inset: auto 8px 1px;
    height: 3px;
    background: var(--soft);
    opacity: 0.85;
  }
  .share b {
    display: block;
    height: 100%;
    min-width: 2px;
    margin-left: auto;
    background: var(--ochre);
  }
</style>
