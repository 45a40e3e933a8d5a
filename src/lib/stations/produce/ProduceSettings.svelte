<script lang="ts">
  import { FORMAT_NAMES, FORMAT_TITLES, type Settings } from '$core/produce';
  import { STATES, type RecordState } from '$core/records';
  import { date } from '$lib/format';
  import { nextNumber, overlapping } from '$lib/stations/produce/serials';
  import type { ProductionRecord } from '$lib/storage/schema';
  import ZoneField from '../../ui/ZoneField.svelte';

  interface Props {
    settings: Settings;
    zone: string;
    productions: ProductionRecord[];
    /** Pages that will be printed; null where it is not known. */
    pages: number | null;
  }
  let { settings = $bindable(), zone = $bindable(), productions, pages }: Props = $props();

  const next = $derived(nextNumber(productions, settings.numbering?.prefix ?? ''));
  const taken = $derived(
    settings.numbering ? overlapping(productions, settings.numbering, pages ?? 1) : null
  );
  const isPrinted = $derived(settings.formats.includes('pdf'));
  const stamp = $derived(
    settings.numbering
      ? settings.numbering.prefix +
          String(settings.numbering.start).padStart(settings.numbering.digits, '0')
      : 'none'
  );

  const STATE_WORDS: Record<RecordState, string> = {
    live: 'live',
    held: 'held',
    recovered: 'recovered',
    fragment: 'fragments',
    earlier: 'earlier wordings'
  };

  /** No choice of states is all of them. */
  function takes(state: RecordState): boolean {
    const { states } = settings.choose;
    return !states || states.length === 0 || states.includes(state);
  }

  function toggle(state: RecordState): void {
    const states = STATES.filter((one) => (one === state ? !takes(one) : takes(one)));
    // The last one stays: a record of nothing is none.
    if (states.length > 0)
      settings.choose.states = states.length === STATES.length ? undefined : states;
  }

  function number(isOn: boolean): void {
    settings.numbering = isOn
      ? { prefix: '', start: 1, digits: 6, position: 'bottom-right' }
      : null;
  }
</script>

<fieldset>
  <legend>Formats</legend>
  {#each FORMAT_NAMES as name (name)}
    <label class="tick" class:on={settings.formats.includes(name)}
      ><input type="checkbox" value={name} bind:group={settings.formats} />{FORMAT_TITLES[
        name
      ]}</label
    >
  {/each}
</fieldset>

<label class="row">Zone <ZoneField bind:zone label="Zone of the times in the records" /></label>

{#if isPrinted}
  <fieldset class="grid">
    <legend>Pages</legend>
    <label for="paper">Paper</label>
    <select class="small-field" id="paper" bind:value={settings.pdf.paper}>
      <option>A4</option><option>Letter</option><option>Legal</option>
    </select>
    <label for="layout">Layout</label>
    <select class="small-field" id="layout" bind:value={settings.pdf.layout}>
      <option value="spine">Two sides</option>
      <option value="stacked">One column</option>
    </select>
    <label for="margin">Margins, mm</label>
    <input
      class="small-field"
      id="margin"
      type="number"
      min="8"
      max="50"
      bind:value={settings.pdf.marginMm}
    />
    <label for="size">Font size, points</label>
    <input
      class="small-field"
      id="size"
      type="number"
      min="6"
      max="18"
      bind:value={settings.pdf.sizePt}
    />
    <label for="password">Password</label>
    <input
      class="small-field"
      id="password"
      type="text"
      autocomplete="off"
      placeholder={settings.pdf.archival ? 'none: archives take no locked pages' : 'none'}
      disabled={settings.pdf.archival}
      value={settings.pdf.password ?? ''}
      oninput={(event) =>
        (settings.pdf.password =
          event.currentTarget.value === '' ? null : event.currentTarget.value)}
    />
    <span></span>
    <label class="tick" class:on={settings.pdf.archival}
      ><input
        type="checkbox"
        checked={settings.pdf.archival}
        onchange={(event) => {
          settings.pdf.archival = event.currentTarget.checked;
          if (settings.pdf.archival) settings.pdf.password = null;
        }}
      />for archives (PDF/A-3b)</label
    >
  </fieldset>
{/if}

<fieldset class="grid">
  <legend>Serial numbers</legend>
  <label for="numbered">First number</label>
  <span class="mono" id="stamp">{stamp}</span>
  <span></span>
  <label class="tick" class:on={settings.numbering !== null}
    ><input
      id="numbered"
      type="checkbox"
      checked={settings.numbering !== null}
      onchange={(event) => number(event.currentTarget.checked)}
    />{isPrinted ? 'stamp every page' : 'number every line'}</label
  >
  {#if settings.numbering}
    <label for="prefix">Prefix</label>
    <input
      class="small-field"
      id="prefix"
      type="text"
      maxlength="24"
      bind:value={settings.numbering.prefix}
    />
    <label for="start">Start</label>
    <input
      class="small-field"
      id="start"
      type="number"
      min="0"
      max="999999999"
      bind:value={settings.numbering.start}
    />
    <label for="digits">Digits</label>
    <input
      class="small-field"
      id="digits"
      type="number"
      min="1"
      max="12"
      bind:value={settings.numbering.digits}
    />
    <label for="position">Place</label>
    <select class="small-field" id="position" bind:value={settings.numbering.position}>
      <option value="bottom-right">bottom right</option>
      <option value="bottom-centre">bottom centre</option>
      <option value="bottom-left">bottom left</option>
      <option value="top-right">top right</option>
    </select>
    {#if taken}
      <p class="warning" role="alert">
        Some of these numbers were already used on {date(taken.made)} ({taken.first} to {taken.last}).
      </p>
    {/if}
    {#if next !== null && next !== settings.numbering.start}
      <button
        class="link"
        onclick={() => {
          if (settings.numbering) settings.numbering.start = next;
        }}>Continue after the last production, at {next}</button
      >
    {/if}
  {/if}
</fieldset>

<fieldset class="grid">
  <legend>Title page</legend>
  <label for="title">Title</label>
  <input
    class="small-field"
    id="title"
    type="text"
    maxlength="300"
    placeholder="Record of the case"
    bind:value={settings.title}
  />
  <label for="reference">Reference</label>
  <input
    class="small-field"
    id="reference"
    type="text"
    maxlength="300"
    bind:value={settings.reference}
  />
  <label for="by">Prepared by</label>
  <input class="small-field" id="by" type="text" maxlength="300" bind:value={settings.preparedBy} />
  <label for="for">Prepared for</label>
  <input
    class="small-field"
    id="for"
    type="text"
    maxlength="300"
    bind:value={settings.preparedFor}
  />
</fieldset>

<fieldset>
  <legend>Include</legend>
  {#each STATES as state (state)}
    <label class="tick" class:on={takes(state)}
      ><input type="checkbox" checked={takes(state)} onchange={() => toggle(state)} />{STATE_WORDS[
        state
      ]}</label
    >
  {/each}
  <label class="tick" class:on={settings.choose.gaps}
    ><input type="checkbox" bind:checked={settings.choose.gaps} />gaps</label
  >
  <label class="tick" class:on={settings.proofs === 'appendix'}
    ><input
      type="checkbox"
      checked={settings.proofs === 'appendix'}
      onchange={(event) => (settings.proofs = event.currentTarget.checked ? 'appendix' : 'none')}
    />evidence</label
  >
  <label class="tick" class:on={settings.convertMedia}
    ><input type="checkbox" bind:checked={settings.convertMedia} />readable copies</label
  >
</fieldset>

<style>
  fieldset {
    border: 0;
    padding: 0;
    margin: 12px 0;
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  .grid {
    display: grid;
    grid-template-columns: 88px minmax(0, 1fr);
    align-items: center;
    gap: 5px 8px;
  }
  legend {
    font-weight: 600;
    margin-bottom: 4px;
    padding: 0;
  }
  .grid > label:not(.tick),
  .row {
    color: var(--soft);
    font-size: 12px;
  }
  .row {
    display: grid;
    gap: 4px;
  }
  .warning {
    grid-column: 1 / 3;
    color: var(--alarm);
    font-size: 12px;
    margin: 0;
  }
  .link {
    grid-column: 1 / 3;
    justify-self: start;
    color: var(--accent);
    text-decoration: underline;
    font-size: 12px;
    cursor: pointer;
  }
  .tick {
    border: 1px solid var(--rule);
    border-radius: 2px;
    padding: 2px 9px 2px 6px;
    background: var(--sheet);
    color: var(--soft);
    cursor: pointer;
    display: inline-flex;
    gap: 6px;
    align-items: center;
    font-size: 13px;
  }
  .tick input {
    accent-color: var(--accent);
  }
  .tick.on {
    border-color: var(--accent);
    color: var(--accent);
    font-weight: 600;
    background: var(--accent-wash);
  }
</style>
