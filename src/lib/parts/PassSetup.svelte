<script lang="ts">
  import type { Depth } from '$core/records';
  import { errorText } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { SourceRecord } from '$lib/storage/schema';

  const { source, open }: { source: SourceRecord; open: OpenCase } = $props();

  const DEPTHS: { depth: Depth; title: string; text: string }[] = [
    { depth: 'indexed', title: 'Indexed', text: 'what each store lists itself' },
    {
      depth: 'freed',
      title: 'Freed',
      text: 'also what its files still hold: freed cells, free pages, log and journal'
    }
  ];

  let depth = $state<Depth>('freed');
  const busy = $derived(source.pass.state === 'running' || source.pass.state === 'queued');
  const examined = $derived(source.pass.state === 'done');

  async function begin(): Promise<void> {
    try {
      await open.desk.beginPass(source.id, depth);
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

<aside aria-label="Set up a pass">
  <h2>{examined ? 'Begin another pass' : 'Begin a pass'}</h2>
  <span class="soft">on {source.name}</span>
  <fieldset>
    <legend class="visually-hidden">Depth</legend>
    {#each DEPTHS as option (option.depth)}
      <label class:on={depth === option.depth}>
        <input type="radio" name="depth" value={option.depth} bind:group={depth} />
        <b>{option.title}</b>
        <small>{option.text}</small>
      </label>
    {/each}
  </fieldset>
  <button class="action main go" onclick={begin} disabled={busy}
    >{busy ? 'Pass is running' : 'Begin pass'}</button
  >
  {#if source.stores.length > 0}
    <a class="action go" href="/case/{source.caseId}/read">Read what was found</a>
  {/if}
  <p class="soft">
    The source is only read. You can go on reading while the pass runs; pause and stop keep what was
    found.
  </p>
</aside>

<style>
  aside {
    border-left: 1px solid var(--rule);
    padding: 16px 20px;
    background: var(--sheet);
    overflow: auto;
  }
  h2 {
    font-size: 17px;
  }
  .soft {
    overflow-wrap: anywhere;
  }
  fieldset {
    border: 0;
    margin: 6px 0 0;
    padding: 0;
  }
  label {
    display: grid;
    grid-template-columns: 22px 1fr;
    border: 1px solid var(--rule);
    border-radius: 2px;
    padding: 8px 11px;
    margin-top: 8px;
    cursor: pointer;
  }
  label.on {
    border-color: var(--accent);
    background: var(--accent-wash);
  }
  input {
    accent-color: var(--accent);
    align-self: center;
  }
  b {
    font-weight: 600;
  }
  small {
    grid-column: 2;
    color: var(--soft);
    font-size: 12px;
  }
  .go {
    display: flex;
    width: 100%;
    padding: 8px;
    margin-top: 14px;
    text-decoration: none;
  }
  .go + .go {
    margin-top: 8px;
  }
  p {
    font-size: 12px;
    margin-top: 12px;
  }
  @media (max-width: 900px) {
    aside {
      border-left: 0;
      border-top: 1px solid var(--rule);
    }
  }
</style>
