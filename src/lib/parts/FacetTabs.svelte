<script lang="ts">
  import { count } from '$lib/format';
  import type { Facet, FacetCounts } from '$lib/worker/protocol';

  interface Props {
    counts: FacetCounts;
    facet: Facet;
    onfacet: (facet: Facet) => void;
  }
  const { counts, facet, onfacet }: Props = $props();

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

<div class="tabs" role="group" aria-label="Facets">
  {#each FACETS as { facet: own, title } (own)}
    {@const { live, notLive } = counts[own]}
    <button class:on={facet === own} aria-pressed={facet === own} onclick={() => onfacet(own)}>
      {title} <span class="n">{count(live)}</span>{#if notLive > 0}&nbsp;<em>+{count(notLive)}</em
        ><span class="visually-hidden"> not live</span>{/if}
    </button>
  {/each}
</div>

<style>
  .tabs {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 4px;
  }
  button {
    padding: 3px 8px 4px;
    border-bottom: 2px solid transparent;
    color: var(--soft);
    cursor: pointer;
  }
  button.on {
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
