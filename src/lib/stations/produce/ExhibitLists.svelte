<script lang="ts">
  import type { ExhibitChange } from '$core/exhibits';
  import type { ExhibitView } from '$lib/service/api/protocol';
  import NameForm from './NameForm.svelte';

  interface Props {
    view: ExhibitView;
    onchange: (change: ExhibitChange) => void;
  }
  const { view, onchange }: Props = $props();

  /** What a name is being typed for. */
  let naming = $state<'new' | 'this' | null>(null);
  const current = $derived(view.lists.find(({ id }) => id === view.current));
</script>

<h1>Exhibit list</h1>
{#if naming}
  <NameForm
    label="Name of the list"
    placeholder="For the other side"
    value={naming === 'this' ? (current?.name ?? '') : ''}
    onkeep={(name) =>
      onchange(naming === 'new' ? { type: 'add-list', name } : { type: 'name-list', name })}
    onclose={() => (naming = null)}
  />
{:else}
  <div class="row">
    <select
      class="small-field"
      aria-label="List in use"
      value={view.current}
      onchange={(event) => onchange({ type: 'use-list', list: event.currentTarget.value })}
    >
      {#each view.lists as list (list.id)}
        <option value={list.id}>{list.name} ({list.exhibits})</option>
      {/each}
    </select>
    <select
      class="small-field"
      aria-label="Order of the exhibits"
      value={view.order}
      onchange={(event) =>
        onchange({ type: 'order', by: event.currentTarget.value as ExhibitView['order'] })}
    >
      <option value="hand">as arranged</option>
      <option value="time">by time</option>
    </select>
  </div>
  <p class="links">
    <button onclick={() => (naming = 'new')}>New list</button> ·
    <button onclick={() => (naming = 'this')}>Rename</button> ·
    <button onclick={() => onchange({ type: 'drop-list' })}
      >{view.lists.length > 1 ? 'Remove list' : 'Empty list'}</button
    >
  </p>
{/if}

<style>
  h1 {
    font-size: 16px;
    margin-bottom: 6px;
  }
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 6px;
  }
  .links {
    font-size: 12px;
    margin: 4px 0 6px;
    color: var(--soft);
  }
  .links button {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
</style>
