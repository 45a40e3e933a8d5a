<script lang="ts">
  import { FORMAT_NAMES, FORMAT_TITLES, type Settings } from '$core/produce';
  import ZoneField from './ZoneField.svelte';

  interface Props {
    settings: Settings;
    zone: string;
  }
  let { settings = $bindable(), zone = $bindable() }: Props = $props();

  // A store is rebuilt by the command, beside the evidence.
  const formats = FORMAT_NAMES.filter((name) => name !== 'database');
  const isPrinted = $derived(settings.formats.includes('pdf'));
  const stamp = $derived(
    settings.numbering
      ? settings.numbering.prefix +
          String(settings.numbering.start).padStart(settings.numbering.digits, '0')
      : 'none'
  );

  function number(isOn: boolean): void {
    settings.numbering = isOn
      ? { prefix: '', start: 1, digits: 6, position: 'bottom-right' }
      : null;
  }
</script>

<fieldset>
  <legend>Formats</legend>
  {#each formats as name (name)}
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
    <select id="paper" bind:value={settings.pdf.paper}>
      <option>A4</option><option>Letter</option><option>Legal</option>
    </select>
    <label for="layout">Layout</label>
    <select id="layout" bind:value={settings.pdf.layout}>
      <option value="spine">Spine: others left, owner right</option>
      <option value="stacked">Stacked: one below the other</option>
    </select>
    <label for="margin">Margins, mm</label>
    <input id="margin" type="number" min="8" max="50" bind:value={settings.pdf.marginMm} />
    <label for="size">Type, points</label>
    <input id="size" type="number" min="6" max="18" bind:value={settings.pdf.sizePt} />
    <label for="password">Password</label>
    <input
      id="password"
      type="text"
      autocomplete="off"
      placeholder="none"
      value={settings.pdf.password ?? ''}
      oninput={(event) =>
        (settings.pdf.password =
          event.currentTarget.value === '' ? null : event.currentTarget.value)}
    />
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
    <input id="prefix" type="text" maxlength="24" bind:value={settings.numbering.prefix} />
    <label for="start">Start</label>
    <input id="start" type="number" min="0" max="999999999" bind:value={settings.numbering.start} />
    <label for="digits">Digits</label>
    <input id="digits" type="number" min="1" max="12" bind:value={settings.numbering.digits} />
    <label for="position">Place</label>
    <select id="position" bind:value={settings.numbering.position}>
      <option value="bottom-right">bottom right</option>
      <option value="bottom-centre">bottom centre</option>
      <option value="bottom-left">bottom left</option>
      <option value="top-right">top right</option>
    </select>
  {/if}
</fieldset>

<fieldset class="grid">
  <legend>Said on it</legend>
  <label for="title">Title</label>
  <input
    id="title"
    type="text"
    maxlength="300"
    placeholder="Record of the case"
    bind:value={settings.title}
  />
  <label for="reference">Reference</label>
  <input id="reference" type="text" maxlength="300" bind:value={settings.reference} />
  <label for="by">Prepared by</label>
  <input id="by" type="text" maxlength="300" bind:value={settings.preparedBy} />
  <label for="for">Prepared for</label>
  <input id="for" type="text" maxlength="300" bind:value={settings.preparedFor} />
</fieldset>

<fieldset>
  <legend>Include</legend>
  <label class="tick" class:on={settings.choose.gaps}
    ><input type="checkbox" bind:checked={settings.choose.gaps} />gaps</label
  >
  <label class="tick" class:on={settings.choose.calls}
    ><input type="checkbox" bind:checked={settings.choose.calls} />calls</label
  >
  <label class="tick" class:on={settings.choose.contacts}
    ><input type="checkbox" bind:checked={settings.choose.contacts} />contacts</label
  >
  <label class="tick" class:on={settings.proofs === 'appendix'}
    ><input
      type="checkbox"
      checked={settings.proofs === 'appendix'}
      onchange={(event) => (settings.proofs = event.currentTarget.checked ? 'appendix' : 'none')}
    />proofs</label
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
  input:not([type='checkbox']),
  select {
    font: inherit;
    font-size: 13px;
    min-width: 0;
    width: 100%;
    padding: 3px 7px;
    border: 1px solid var(--rule);
    border-radius: 2px;
    background: var(--sheet);
    color: var(--ink);
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
