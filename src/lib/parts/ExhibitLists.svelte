<script lang="ts">
  import type { ExhibitChange } from '$core/exhibits';
  import type { ExhibitView } from '$lib/worker/protocol';

  interface Props {
    view: ExhibitView;
    onchange: (change: ExhibitChange) => void;
  }
  const { view, onchange }: Props = $props();

  /** What a name is being typed for. */
  let naming = $state<'new' | 'this' | null>(null);
  let name = $state('');
  const current = $derived(view.lists.find(({ id }) => id === view.current));

  function begin(what: 'new' | 'this'): void {
    naming = what;
    name = what === 'this' ? (current?.name ?? '') : '';
  }

  function keep(event: SubmitEvent): void {
    event.preventDefault();
    if (name.trim() !== '')
      onchange(naming === 'new' ? { type: 'add-list', name } : { type: 'name-list', name });
    naming = null;
  }

  function focus(element: HTMLInputElement): void {
    element.focus();
    element.select();
  }
</script>

<h1>Exhibit list</h1>
{#if naming}
  <form onsubmit={keep}>
    <input
      type="text"
      maxlength="80"
      aria-label="Name of the list"
      placeholder="For the other side"
      bind:value={name}
      use:focus
      onkeydown={(event) => event.key === 'Escape' && (naming = null)}
    />
    <button class="action quiet">Keep</button>
  </form>
{:else}
  <div class="row">
    <select
      aria-label="List in use"
      value={view.current}
      onchange={(event) => onchange({ type: 'use-list', list: event.currentTarget.value })}
    >
      {#each view.lists as list (list.id)}
        <option value={list.id}>{list.name} ({list.exhibits})</option>
      {/each}
    </select>
    <select
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
    <button onclick={() => begin('new')}>New list</button> ·
    <button onclick={() => begin('this')}>Rename</button> ·
    <button onclick={() => onchange({ type: 'drop-list' })}
      >{view.lists.length > 1 ? 'Drop list' : 'Empty list'}</button
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
  form {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 6px;
  }
  select,
  input {
    font: inherit;
    font-size: 13px;
    min-width: 0;
    padding: 3px 7px;
    border: 1px solid var(--rule);
    border-radius: 2px;
    background: var(--sheet);
    color: var(--ink);
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
