<script lang="ts">
  import { Slider, ToggleGroup } from '@skeletonlabs/skeleton-svelte';
  import { count, errorText, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { FileKind } from '$core/records';
  import type { MediaFilter, MediaSheet } from '$lib/service/api/media-api';
  import { FILE_WORDS } from './file-words';
  import { answersFor } from '$lib/state/latest';
  import LabelMany from './LabelMany.svelte';

  interface Props {
    open: OpenCase;
    filter: MediaFilter;
    sheet: MediaSheet;
    /** Files on the exhibit list. */
    chosen: number;
    onchange: (change: Partial<MediaFilter>) => void;
  }
  const { open, filter, sheet, chosen, onchange }: Props = $props();

  /** No label is called that: they have no blanks around them. */
  const ANY = ' ';
  let labels = $state.raw<[label: string, count: number][]>([]);
  const answers = answersFor(() => open);
  $effect(() => {
    void open.version;
    answers(open.desk.notes.labels(), (found) => (labels = found));
  });

  /** Bits of 64 by which scaled and compressed copies of one picture mostly differ, at most. */
  const USUAL = 6;
  const KINDS: FileKind[] = ['picture', 'video', 'sound'];
  const SIZES = [
    [0, 'any size'],
    [100_000, 'over 100 kB'],
    [1_000_000, 'over 1 MB'],
    [10_000_000, 'over 10 MB']
  ] as const;

  async function compare(): Promise<void> {
    try {
      if (await open.desk.media.compare()) onchange({ alike: filter.alike ?? USUAL });
    } catch (error) {
      open.failure = `The pictures were not compared: ${errorText(error)}`;
    }
  }
</script>

<div class="filters" role="group" aria-label="What the sheet shows">
  <ToggleGroup
    multiple
    value={filter.kinds}
    onValueChange={(details) => onchange({ kinds: details.value as FileKind[] })}
    aria-label="Kinds"
    class="kinds"
  >
    {#each KINDS.filter((kind) => sheet.kinds[kind]) as kind (kind)}
      <ToggleGroup.Item value={kind}
        >{FILE_WORDS[kind].many} {count(sheet.kinds[kind]!)}</ToggleGroup.Item
      >
    {/each}
  </ToggleGroup>
  <select
    class="field"
    aria-label="With whom"
    value={filter.person ?? ''}
    onchange={(event) => onchange({ person: event.currentTarget.value || null })}
  >
    <option value="">anyone</option>
    {#each sheet.people as { id, name, count: n } (id)}<option value={id}
        >{name} ({count(n)})</option
      >{/each}
  </select>
  <select
    class="field"
    aria-label="State"
    value={filter.state}
    onchange={(event) => onchange({ state: event.currentTarget.value as MediaFilter['state'] })}
  >
    <option value="all">any state</option>
    <option value="live">live</option>
    <option value="not live">deleted or changed</option>
  </select>
  <select
    class="field"
    aria-label="With a message or without"
    value={filter.message}
    onchange={(event) => onchange({ message: event.currentTarget.value as MediaFilter['message'] })}
  >
    <option value="all">with or without a message</option>
    <option value="with">with a message</option>
    <option value="without">without a message</option>
  </select>
  <select
    class="field"
    aria-label="Size"
    value={String(filter.least)}
    onchange={(event) => onchange({ least: Number(event.currentTarget.value) })}
  >
    {#each SIZES as [least, words] (least)}<option value={String(least)}>{words}</option>{/each}
  </select>
  {#if labels.length > 0}
    <select
      class="field"
      aria-label="Labels of what is shown"
      value={filter.label ?? ANY}
      onchange={(event) =>
        onchange({ label: event.currentTarget.value === ANY ? null : event.currentTarget.value })}
    >
      <option value={ANY}>labelled or not</option>
      <option value="">with a note or a label</option>
      {#each labels as [label], i (i)}<option value={label}>{label}</option>{/each}
    </select>
  {/if}
  {#if chosen > 0}
    <LabelMany
      {open}
      title={chosen === 1 ? 'Label the selected one' : `Label the ${count(chosen)} selected`}
      records={() => ({ kind: 'file' })}
    />
  {/if}
  {#if open.comparing}
    <span class="soft" role="status"
      >{count(open.comparing.done)} of {plural(open.comparing.total, 'picture')} compared</span
    >
  {:else if filter.alike === null}
    <button class="action quiet" disabled={sheet.pictures < 2} onclick={() => void compare()}
      >Show lookalikes as one</button
    >
  {:else}
    <Slider
      min={64 - 20}
      max={64}
      step={1}
      value={[64 - filter.alike]}
      onValueChangeEnd={(details) => onchange({ alike: 64 - (details.value[0] ?? 64 - USUAL) })}
      class="slider"
    >
      <Slider.Label>similarity: at least {64 - filter.alike} of 64</Slider.Label>
      <Slider.Control>
        <Slider.Track><Slider.Range /></Slider.Track>
        <Slider.Thumb index={0}><Slider.HiddenInput /></Slider.Thumb>
      </Slider.Control>
    </Slider>
    <button class="action quiet" onclick={() => onchange({ alike: null })}>Show each</button>
  {/if}
</div>

<style>
  .filters {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 10px;
    padding: 7px 20px;
    border-bottom: 1px solid var(--rule);
    flex: none;
  }
  .filters :global(.kinds) {
    display: flex;
    gap: 4px;
    background: none;
    border: 0;
    padding: 0;
  }
  select {
    padding: 2px 4px;
    font-size: 12.5px;
    max-width: 190px;
  }
  .action {
    padding: 2px 9px;
  }
  .filters :global(.slider) {
    display: flex;
    align-items: center;
    gap: 10px;
    width: 300px;
  }
  .filters :global(.slider [data-part='label']) {
    white-space: nowrap;
    font-size: 12.5px;
  }
  .filters :global(.slider [data-part='control']) {
    flex: 1;
  }
</style>
