<script lang="ts">
  import Pencil from '@lucide/svelte/icons/pencil';
  import { count, errorText, plural } from '$lib/format';
  import { reading } from '$lib/state/reading.svelte';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { CorrespondentRow } from '$lib/service/api/protocol';
  import TipButton from '../../ui/TipButton.svelte';

  interface Props {
    row: CorrespondentRow;
    total: number;
    open: OpenCase;
    onchoose: (chosen: boolean) => void;
  }
  const { row, total, open, onchoose }: Props = $props();

  let naming = $state(false);
  let name = $state('');

  const whole = $derived(row.chosen >= row.lines && row.lines > 0);

  function begin(): void {
    name = row.named ? row.name : '';
    naming = true;
  }

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    naming = false;
    if (row.person === null) return;
    try {
      await open.desk.setName(row.person, name);
    } catch (error) {
      open.failure = `The name was not kept: ${errorText(error)}`;
    }
  }

  function focus(element: HTMLInputElement): void {
    element.focus();
    element.select();
  }
</script>

<div class="title">
  {#if naming}
    <form onsubmit={save}>
      <input
        class="field"
        aria-label="Name for {row.detail}"
        bind:value={name}
        use:focus
        onkeydown={(event) => event.key === 'Escape' && (naming = false)}
      />
      <button class="action">Keep name</button>
    </form>
  {:else}
    <h2><bdi>{row.name}</bdi></h2>
    {#if row.person !== null}
      <TipButton
        class="pencil"
        tip={row.named ? 'Change the name' : 'Give a name'}
        aria-label={row.named ? `Change the name ${row.name}` : `Give ${row.name} a name`}
        onclick={begin}><Pencil size={13} /></TipButton
      >
    {/if}
  {/if}
  {#if row.person !== null}
    <TipButton
      class="soft detail"
      tip="All addresses, and why they are one person’s"
      onclick={() => {
        reading.person = row.person;
        reading.facet = 'people';
      }}>{row.detail}</TipButton
    >
  {:else}<span class="soft detail">{row.detail}</span>{/if}
  <span class="end">
    <span class="soft"
      >{plural(total, 'message')}{#if row.notLive > 0}, <span
          class="not"
          title="{count(row.notLive)} deleted or changed"
          ><span aria-hidden="true">◆</span>
          {count(row.notLive)}<span class="visually-hidden"> deleted or changed</span></span
        >{/if}</span
    >
    <button class="action quiet" aria-pressed={whole} onclick={() => onchoose(!whole)}
      >{whole ? 'Unselect conversation' : 'Select conversation'}</button
    >
  </span>
</div>

<style>
  .title {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 2px 12px;
    padding: 10px 26px 8px;
    border-bottom: 1px solid var(--hair);
    flex: none;
  }
  h2 {
    font-size: 19px;
    min-width: 0;
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .title :global(.pencil) {
    cursor: pointer;
    color: var(--soft);
    padding: 2px;
  }
  .title :global(.pencil:hover) {
    color: var(--accent);
  }
  form {
    display: flex;
    gap: 8px;
  }
  .title :global(button.detail) {
    cursor: pointer;
    text-decoration: underline dotted;
    text-underline-offset: 3px;
  }
  .detail {
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .end {
    margin-left: auto;
    display: flex;
    align-items: baseline;
    gap: 12px;
  }
  .end .action {
    padding: 2px 10px;
  }
  .not {
    color: var(--ochre);
  }
  @media (max-width: 600px) {
    .title {
      padding: 8px 12px;
    }
  }
</style>
