<script lang="ts">
  import type { ExhibitChange } from '$core/exhibits';
  import type { ExhibitRow } from '$lib/service/api/protocol';
  import DayField from '../../ui/DayField.svelte';

  interface Props {
    row: ExhibitRow;
    onchange: (change: ExhibitChange) => void;
    ongo: () => void;
  }
  const { row, onchange, ongo }: Props = $props();
  const uid = $props.id();
  const entry = $derived(row.id);

  function trim(told: { from?: string | null; to?: string | null }): void {
    const { from, to } = { from: row.from, to: row.to, ...told };
    onchange({ type: 'trim', entry, from: from || null, to: to || null });
  }
</script>

<div class="grid">
  <label for="{uid}-name">Name</label>
  <input
    class="small-field"
    id="{uid}-name"
    type="text"
    maxlength="300"
    placeholder={row.isNamed ? '' : row.name}
    value={row.isNamed ? row.name : ''}
    onchange={(event) => onchange({ type: 'name', entry, name: event.currentTarget.value })}
  />
  {#if row.kind === 'lines'}
    <label for="{uid}-from">From day</label>
    <DayField
      id="{uid}-from"
      label="First day of the exhibit"
      value={row.from}
      max={row.to}
      near={row.firstDay}
      onchange={(from) => trim({ from })}
    />
    <label for="{uid}-to">To day</label>
    <DayField
      id="{uid}-to"
      label="Last day of the exhibit"
      value={row.to}
      min={row.from}
      near={row.lastDay}
      onchange={(to) => trim({ to })}
    />
    <label for="{uid}-context">Context</label>
    <span class="pair"
      ><input
        class="small-field"
        id="{uid}-context"
        type="number"
        min="0"
        max="50"
        value={row.context}
        onchange={(event) =>
          onchange({ type: 'context', entry, lines: event.currentTarget.valueAsNumber || 0 })}
      /><small>messages before and after, in grey</small></span
    >
  {/if}
  <label class="tick"
    ><input
      type="checkbox"
      checked={row.isClosed}
      onchange={(event) =>
        onchange({ type: 'close', entry, isClosed: event.currentTarget.checked })}
    /> what is selected next starts a new exhibit</label
  >
  <p>
    {#if row.first}<button onclick={ongo}>Go to its first message</button> ·&nbsp;{/if}<button
      onclick={() => onchange({ type: 'drop', entry })}
      aria-label="Remove {row.name} from the list">Remove</button
    >
  </p>
</div>

<style>
  .grid {
    grid-column: 1 / 4;
    display: grid;
    grid-template-columns: 62px minmax(0, 1fr);
    gap: 4px 8px;
    align-items: center;
    margin-top: 8px;
    padding-top: 8px;
    border-top: 1px solid var(--hair);
    font-size: 12px;
  }
  label {
    color: var(--soft);
  }
  .pair {
    display: grid;
    grid-template-columns: 56px 1fr;
    gap: 6px;
    align-items: center;
  }
  small {
    color: var(--soft);
  }
  .tick,
  p {
    grid-column: 1 / 3;
    margin: 0;
  }
  .tick input {
    accent-color: var(--accent);
  }
  button {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
</style>
