<script lang="ts">
  import Lock from '@lucide/svelte/icons/lock';
  import type { PackageFacts } from '$core/records';
  import { errorText } from '$lib/format';
  import FilePick from '../../ui/FilePick.svelte';
  import type { OpenCase } from '$lib/state/desk.svelte';

  interface Props {
    sourceId: string;
    pack: PackageFacts;
    open: OpenCase;
    /** Something was typed, or taken away. */
    ontyped: () => void;
  }
  const { sourceId, pack, open, ontyped }: Props = $props();

  // svelte-ignore state_referenced_locally
  let key = $state(open.typedKeys.get(sourceId) ?? '');
  let shown = $state(false);
  const what = $derived(
    pack.lock?.wants === 'password' ? 'Password' : 'Password or 64-digit hex key'
  );
  const id = $derived(`key-${sourceId}-${pack.path}`);

  async function unlock(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    await tryKeys([key]);
  }

  function typed(): void {
    if (key === '') open.typedKeys.delete(sourceId);
    else open.typedKeys.set(sourceId, key);
    ontyped();
  }

  /** A list of passwords, one per line, is tried in turn. */
  async function listPicked([file]: File[]): Promise<void> {
    if (!file) return;
    const lines = (await file.text()).split(/\r?\n/).filter((line) => line !== '');
    if (lines.length === 0) open.failure = `${file.name} holds no passwords.`;
    else await tryKeys(lines);
  }

  async function tryKeys(keys: string[]): Promise<void> {
    try {
      open.typedKeys.delete(sourceId);
      await open.desk.sources.unlock(sourceId, keys);
      key = '';
      ontyped();
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

<form onsubmit={unlock} class:wrong={pack.lock?.reason === 'wrong-key'}>
  <Lock size={16} strokeWidth={1.6} aria-hidden="true" />
  <span class="say">
    {#if pack.lock?.reason === 'wrong-key'}
      <b>The {pack.lock.wants === 'password' ? 'password' : 'key'} does not open it.</b> Capitals and
      spaces matter.
    {:else}
      <b>Locked.</b> It is encrypted; the key is used in this browser only and is not kept.
    {/if}
  </span>
  <label for={id} class="visually-hidden">{what} for {pack.path || 'the backup'}</label>
  <input
    {id}
    class="field"
    type={shown ? 'text' : 'password'}
    placeholder={what}
    autocomplete="off"
    spellcheck="false"
    bind:value={key}
    oninput={typed}
  />
  <button type="button" class="action quiet" aria-pressed={shown} onclick={() => (shown = !shown)}
    >{shown ? 'Hide' : 'Show'}</button
  >
  <button class="action main">Unlock</button>
  <FilePick
    title="Try a list"
    testid="key-list"
    accept=".txt,text/plain"
    onpick={(files) => listPicked(files)}
  />
</form>

<style>
  form {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
    padding: 8px 14px 10px 22px;
    border-top: 1px solid var(--hair);
    background: var(--slate-wash);
    color: var(--slate);
  }
  form.wrong {
    color: var(--alarm);
  }
  .say {
    flex: 1 1 240px;
    color: var(--ink);
    font-size: 12.5px;
  }
  .wrong .say b {
    color: var(--alarm);
  }
  b {
    font-weight: 600;
  }
  .field {
    flex: 0 1 240px;
    min-width: 120px;
  }
</style>
