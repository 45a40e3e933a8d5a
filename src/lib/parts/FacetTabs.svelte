<script lang="ts">
  import { Tabs } from '@skeletonlabs/skeleton-svelte';
  import { count } from '$lib/format';
  import type { Facet, FacetCounts } from '$lib/worker/protocol';

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
      {title} <span class="n">{count(live)}</span>{#if notLive > 0}<em>+{count(notLive)}</em><span
          class="visually-hidden"
        >
          not live</span
        >{/if}
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
  em {
    font-style: normal;
    color: var(--ochre);
    font-size: 12px;
  }
</style>
