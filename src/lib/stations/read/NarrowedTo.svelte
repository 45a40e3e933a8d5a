<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { ToggleGroup } from '@skeletonlabs/skeleton-svelte';
  import { count, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { HITS_AS, reading, type HitsAs } from '$lib/state/reading.svelte';
  import { STATES } from '$core/records';
  import type { Labelled } from '$lib/service/notes/notes-room';
  import { FILE_WORDS } from './file-words';
  import LabelMany from './LabelMany.svelte';

  interface Props {
    open: OpenCase;
    /** Lines and correspondents that pass. */
    lines: number;
    correspondents: number;
    /** Hits in the conversation that is shown, and which of them is in focus; -1 for none. */
    hits: number;
    hit: number;
    /** All hits stand in one list. */
    isList: boolean;
    name: string;
    onstep: (by: number) => void;
    onchoose: () => void;
  }
  const { open, lines, correspondents, hits, hit, isList, name, onstep, onchoose }: Props =
    $props();

  const query = $derived(reading.query.trim());
  const hitLines = (): Labelled => ({ kind: 'line', filter: $state.snapshot(reading.filter) });
  const place = $derived.by(() => {
    const id = reading.narrow.place;
    if (id === null) return null;
    for (const source of open.summary!.sources) {
      if (source.id === id) return source.name;
      const store = source.stores.find((one) => one.id === id);
      if (store) return store.path;
    }
    return 'a source that was removed';
  });
</script>

<div class="strip" role="region" aria-label="What the view is narrowed to">
  {#if query !== ''}
    <span role="status"
      >{plural(lines, 'hit')} of “{query}” with {plural(correspondents, 'correspondent')}</span
    >
    {#if hits > 0 && !isList}
      <span class="step">
        <button class="action quiet" onclick={() => onstep(-1)} aria-label="Previous hit">‹</button>
        <span
          >{hit < 0 ? plural(hits, 'hit') : `hit ${count(hit + 1)} of ${count(hits)}`} with {name}</span
        >
        <button class="action quiet" onclick={() => onstep(1)} aria-label="Next hit">›</button>
        <kbd>n</kbd>
      </span>
    {/if}
    <ToggleGroup
      value={[reading.hitsAs]}
      deselectable={false}
      onValueChange={(details) => (reading.hitsAs = (details.value[0] ?? 'context') as HitsAs)}
      aria-label="How hits are shown"
      class="hits-as"
    >
      {#each Object.entries(HITS_AS) as [way, words] (way)}
        <ToggleGroup.Item value={way}>{words}</ToggleGroup.Item>
      {/each}
    </ToggleGroup>
    {#if lines > 0}
      <button class="action quiet" onclick={onchoose}
        >{lines === 1 ? 'Select the hit' : `Select all ${plural(lines, 'hit')}`}</button
      >
      <LabelMany {open} title="Label them" records={hitLines} />
    {/if}
  {:else}<span class="soft">Only messages</span>{/if}
  {#if place !== null}
    <button
      class="tag"
      onclick={() => (reading.narrow = { ...reading.narrow, place: null })}
      aria-label="in {place}, remove">in {place} <X size={11} aria-hidden="true" /></button
    >
  {/if}
  {#if reading.narrow.has !== null}
    {@const has = reading.narrow.has}
    {@const words = has === 'any' ? 'files' : FILE_WORDS[has].many}
    <button
      class="tag"
      onclick={() => (reading.narrow = { ...reading.narrow, has: null })}
      aria-label="with {words}, remove">with {words} <X size={11} aria-hidden="true" /></button
    >
  {/if}
  {#if reading.narrow.label !== null}
    {@const label = reading.narrow.label === '' ? 'noted' : `labelled ${reading.narrow.label}`}
    <button
      class="tag"
      onclick={() => (reading.narrow = { ...reading.narrow, label: null })}
      aria-label="{label}, remove">{label} <X size={11} aria-hidden="true" /></button
    >
  {/if}
  {#if reading.from !== null || reading.to !== null}
    <button
      class="tag"
      onclick={() => (reading.from = reading.to = null)}
      aria-label="of some days, remove">of some days <X size={11} aria-hidden="true" /></button
    >
  {/if}
  {#if reading.states.length < STATES.length}
    {@const words = reading.states.length === 0 ? 'of no state' : reading.states.join(', ')}
    <button class="tag" onclick={() => (reading.states = [...STATES])} aria-label="{words}, remove"
      >{words} <X size={11} aria-hidden="true" /></button
    >
  {/if}
</div>

<style>
  .strip {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 5px 14px;
    padding: 5px 20px;
    border-bottom: 1px solid var(--rule);
    background: var(--accent-wash);
    flex: none;
  }
  .step {
    display: inline-flex;
    align-items: center;
    gap: 6px;
  }
  .step .action {
    padding: 0 8px;
  }
  .action {
    padding: 1px 9px;
  }
  .tag {
    display: inline-flex;
    align-items: center;
    gap: 5px;
    border: 1px solid var(--accent);
    border-radius: 3px;
    background: var(--sheet);
    padding: 1px 8px;
    cursor: pointer;
    max-width: 260px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .strip :global(.hits-as) {
    display: flex;
    gap: 3px;
    background: none;
    border: 0;
    padding: 0;
  }
</style>
