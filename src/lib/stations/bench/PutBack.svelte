<script lang="ts">
  import type { PutReport } from '$bench/handsets/put';
  import { errorText, plural } from '$lib/format';
  import FilePick from '../../ui/FilePick.svelte';

  interface Props {
    /** Messages that were put back before. */
    putBack: number;
    /** Rebuilds the store with the chosen lines of a copy of this phone; null where there is no copy. */
    onrebuild: (() => Promise<Blob>) | null;
    onput: (store: Blob, isDry: boolean) => Promise<PutReport>;
    onundo: () => void;
  }
  const { putBack, onrebuild, onput, onundo }: Props = $props();

  let store = $state.raw<{ name: string; blob: Blob } | null>(null);
  let told = $state.raw<PutReport | null>(null);
  let isDone = $state(false);
  let problem = $state<string | null>(null);
  let isBusy = $state(false);

  async function put(isDry: boolean): Promise<void> {
    if (!store) return;
    isBusy = true;
    problem = null;
    try {
      told = await onput(store.blob, isDry);
      isDone = !isDry;
    } catch (error) {
      told = null;
      problem = errorText(error);
    } finally {
      isBusy = false;
    }
  }

  async function picked([file]: File[]): Promise<void> {
    store = file ? { name: file.name, blob: file } : null;
    await look();
  }

  async function look(): Promise<void> {
    isDone = false;
    told = null;
    await put(true);
  }

  async function rebuild(): Promise<void> {
    isBusy = true;
    problem = null;
    try {
      store = { name: 'the selected messages', blob: await onrebuild!() };
    } catch (error) {
      [store, told, problem] = [null, null, errorText(error)];
    }
    isBusy = false;
    await look();
  }
</script>

<section aria-label="Put messages back">
  <h2>Put messages back</h2>
  <p class="soft">
    The messages that were selected in Read, or a rebuilt store that Produce made, are merged into
    the phone’s own store. What is there stays as it is.
  </p>
  <div class="row">
    {#if onrebuild}
      <button class="action" disabled={isBusy} onclick={rebuild}
        >Look at the selected messages</button
      >
    {/if}
    <FilePick title="Choose a rebuilt store" testid="rebuilt" disabled={isBusy} onpick={picked} />
    {#if putBack > 0}
      <button class="action quiet" disabled={isBusy} onclick={onundo}
        >Undo ({plural(putBack, 'message')})</button
      >
    {/if}
  </div>
  {#if problem}<p class="problem" role="alert">{problem}</p>{/if}
  {#if told && store}
    <div class="told" role="status">
      {#if told.added === 0}
        <p>
          {isDone ? '' : 'Nothing would be added: '}all {plural(told.present, 'message')} of {store.name}
          are on the phone.
        </p>
      {:else if isDone}
        <p>{plural(told.added, 'message')} added. {told.checked}</p>
      {:else}
        <p>
          <b>{plural(told.added, 'message')} would be added</b>, {told.present} of {store.name} are on
          the phone already. None of its {plural(told.before, 'message')} is changed or overwritten{told.threads >
          0
            ? `; ${plural(told.threads, 'conversation')} would be made again`
            : ''}.
        </p>
        <ul>
          {#each told.samples as text, i (i)}<li>{text}</li>{/each}
        </ul>
        <button class="action" disabled={isBusy} onclick={() => put(false)}
          >Put {plural(told.added, 'message')} back</button
        >
      {/if}
    </div>
  {/if}
</section>

<style>
  h2 {
    font-size: 15px;
  }
  p {
    margin: 4px 0 8px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .told {
    margin-top: 10px;
    border-left: 3px solid var(--ochre-bar);
    background: var(--ochre-wash);
    padding: 6px 12px 10px;
  }
  ul {
    margin: 0 0 8px;
    padding: 0;
    list-style: none;
    font: 14px/1.4 var(--font-text);
  }
  li {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .problem {
    color: var(--alarm);
  }
</style>
