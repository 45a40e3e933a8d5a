<script lang="ts">
  import { Popover, Portal, ToggleGroup } from '@skeletonlabs/skeleton-svelte';
  import ListFilter from '@lucide/svelte/icons/list-filter';
  import { count } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { reading } from '$lib/state/reading.svelte';
  import { FILE_WORDS } from './file-words';
  import { answersFor } from '$lib/state/latest';
  import StateChips from './StateChips.svelte';

  const { open }: { open: OpenCase } = $props();

  /** No label is called that: they have no blanks around them. */
  const ANY_LABEL = ' ';

  let labels = $state.raw<[label: string, count: number][]>([]);
  const answers = answersFor(() => open);
  $effect(() => {
    void open.version;
    answers(open.desk.notes.labels(), (found) => (labels = found));
  });

  const sources = $derived(open.summary!.sources.filter(({ stores }) => stores.length > 0));
  const set = $derived(
    [reading.narrow.place, reading.narrow.has, reading.narrow.label].filter((one) => one !== null)
      .length + (reading.states.length < 5 ? 1 : 0)
  );

  function has(values: string[]): void {
    const [chosen] = values;
    reading.narrow = { ...reading.narrow, has: (chosen ?? null) as typeof reading.narrow.has };
  }
</script>

<Popover positioning={{ placement: 'bottom-end' }}>
  <Popover.Trigger
    class="action quiet {set > 0 ? 'is-set' : ''}"
    aria-label="Narrow the view{set > 0 ? `, ${set} set` : ''}"
  >
    <ListFilter size={14} aria-hidden="true" />Narrow{set > 0 ? ` (${count(set)})` : ''}
  </Popover.Trigger>
  <Portal>
    <Popover.Positioner class="over">
      <Popover.Content class="pop-sheet" aria-label="Narrow the view">
        <div class="fields">
          <label class="row"
            ><span>In</span>
            <select
              class="field"
              aria-label="In which source"
              value={reading.narrow.place ?? ''}
              onchange={(event) =>
                (reading.narrow = {
                  ...reading.narrow,
                  place: event.currentTarget.value || null
                })}
            >
              <option value="">all sources</option>
              {#each sources as source (source.id)}
                <option value={source.id}>{source.name}</option>
                {#if source.stores.length > 1}
                  {#each source.stores as store (store.id)}
                    <option value={store.id}>– {store.path}</option>
                  {/each}
                {/if}
              {/each}
            </select></label
          >
          <div class="row">
            <span id="narrow-has">With</span>
            <ToggleGroup
              value={reading.narrow.has ? [reading.narrow.has] : []}
              onValueChange={(details) => has(details.value)}
              aria-labelledby="narrow-has"
              class="kinds"
            >
              <ToggleGroup.Item value="any">any file</ToggleGroup.Item>
              {#each Object.entries(FILE_WORDS) as [kind, { many }] (kind)}
                <ToggleGroup.Item value={kind}>{many}</ToggleGroup.Item>
              {/each}
            </ToggleGroup>
          </div>
          <label class="row"
            ><span>Labelled</span>
            <select
              class="field"
              aria-label="Labels of what is shown"
              value={reading.narrow.label ?? ANY_LABEL}
              onchange={({ currentTarget: { value } }) =>
                (reading.narrow = { ...reading.narrow, label: value === ANY_LABEL ? null : value })}
            >
              <option value={ANY_LABEL}>labelled or not</option>
              <option value="">with a note or a label</option>
              {#each labels as [label, n], i (i)}<option value={label}>{label} ({count(n)})</option
                >{/each}
            </select></label
          >
          <div class="row">
            <span>States</span>
            <StateChips totals={open.summary!.totals} />
          </div>
          <button class="action quiet" onclick={() => reading.widen()}>Show everything</button>
        </div>
      </Popover.Content>
    </Popover.Positioner>
  </Portal>
</Popover>

<style>
  .fields {
    display: grid;
    gap: 10px;
    justify-items: start;
    width: min(420px, 84vw);
  }
  .row {
    display: grid;
    grid-template-columns: 66px minmax(0, 1fr);
    align-items: center;
    width: 100%;
    color: var(--soft);
  }
  select {
    max-width: 100%;
  }
  .fields :global(.kinds) {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    background: none;
    border: 0;
    padding: 0;
  }
</style>
