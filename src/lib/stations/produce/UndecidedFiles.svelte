<script lang="ts">
  import type { UndecidedFile } from '$core/produce';
  import Sheet from '../../ui/Sheet.svelte';

  /** Files with covered words inside: each is covered whole or goes along as it is. */
  interface Props {
    files: readonly UndecidedFile[];
    oncancel: () => void;
    /** What was decided: the files that are covered; the others go along. */
    ondecide: (covered: UndecidedFile[], along: UndecidedFile[]) => unknown;
  }
  const { files, oncancel, ondecide }: Props = $props();

  let along = $state<Record<string, boolean>>({});
  const isDecided = $derived(files.every(({ id }) => along[id] !== undefined));

  function decide(): void {
    ondecide(
      files.filter(({ id }) => along[id] === false),
      files.filter(({ id }) => along[id] === true)
    );
  }
</script>

<Sheet
  bind:open={() => true, (shown) => !shown && oncancel()}
  title="Covered words stand, or may stand, inside of {files.length === 1 ? 'a file' : 'files'}"
>
  <p>Nothing was handed out. Decide for each file; the decision stands in the log.</p>
  <ul>
    {#each files as { id, name, codes, where, isUnread }, i (i)}
      <li>
        <b>{name}</b>
        <span class="soft"
          >{isUnread ? 'cannot be read inside' : codes.join(', ')}{where === ''
            ? ''
            : `, in ${where}`}</span
        >
        <label
          ><input
            type="radio"
            name="file-{i}"
            checked={along[id] === false}
            onchange={() => (along[id] = false)}
          /> Cover it whole</label
        >
        <label
          ><input
            type="radio"
            name="file-{i}"
            checked={along[id] === true}
            onchange={() => (along[id] = true)}
          /> Let it go along as it is</label
        >
      </li>
    {/each}
  </ul>
  <div>
    <button class="action quiet" onclick={oncancel}>Cancel</button>
    <button class="action main" disabled={!isDecided} onclick={decide}>Produce records</button>
  </div>
</Sheet>

<style>
  p {
    margin: 0 0 8px;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    display: grid;
    gap: 2px;
    padding: 6px 0;
    border-top: 1px solid var(--hair);
    overflow-wrap: anywhere;
  }
  input {
    accent-color: var(--accent);
  }
  div {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    margin-top: 10px;
  }
</style>
