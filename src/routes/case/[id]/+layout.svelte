<script lang="ts">
  import { onDestroy, onMount, type Snippet } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import AllowReading from '$lib/frame/AllowReading.svelte';
  import CaseHeader from '$lib/frame/CaseHeader.svelte';
  import JobStrip from '$lib/frame/JobStrip.svelte';
  import KeyList from '$lib/frame/KeyList.svelte';
  import { errorText } from '$lib/format';
  import { fillDemoCase } from '$lib/state/demo';
  import { OpenCase, provideCase } from '$lib/state/desk.svelte';
  import { look } from '$lib/state/look.svelte';
  import { viewer } from '$lib/state/viewer.svelte';
  import { keepWhenQuiet } from '$lib/state/offline';
  import { stationOf, Keys } from '$lib/state/keys';

  const { children }: { children: Snippet } = $props();

  const open = new OpenCase();
  provideCase(open);
  let failure = $state<string | null>(null);
  let listing = $state(false);
  let helpTab = $state<'keys' | 'marks'>('keys');

  open.explain = () => {
    helpTab = 'marks';
    listing = true;
  };

  onMount(async () => {
    try {
      await open.open(page.params.id!, !wasReloaded());
      askToKeep();
      const { record, sources } = open.summary!;
      if (record.demo && sources.length === 0 && open.summary!.isOwner)
        await fillDemoCase(open.desk, record.id);
    } catch (error) {
      failure = errorText(error);
    }
  });
  onDestroy(() => open.close());

  /** The browser asks the user whether it may keep cases, and waits for the answer. */
  let asking = $state(false);

  /** Without it a browser that runs short of room may drop a case. Nothing waits for the answer. */
  function askToKeep(): void {
    const answer = navigator.storage.persist();
    // Browsers that ask nobody answer at once.
    const late = setTimeout(() => (asking = true), 1000);
    answer
      .catch((error: unknown) => (open.failure = errorText(error)))
      .finally(() => {
        clearTimeout(late);
        asking = false;
      });
  }

  /** Loading the page again does not close the case. */
  function wasReloaded(): boolean {
    const [entry] = performance.getEntriesByType('navigation');
    const isFirst = !sessionStorage.getItem(CLOSED);
    sessionStorage.removeItem(CLOSED);
    return isFirst && (entry as PerformanceNavigationTiming | undefined)?.type === 'reload';
  }
  const CLOSED = 'ombudsman case closed';
  onDestroy(() => sessionStorage.setItem(CLOSED, '1'));

  $effect(() => {
    const isBusy = open.job !== null || open.copying !== null || open.adding !== null;
    if (open.summary !== null && !isBusy) return keepWhenQuiet();
  });

  const keys = new Keys({
    go: (station) => void goto(`/case/${page.params.id}/${station}`),
    list: () => (listing = true),
    search: () => document.getElementById('case-search')?.focus()
  });
</script>

<svelte:window onkeydown={(event) => keys.press(event)} />
<svelte:head
  ><title>{open.summary?.record.name ?? 'Case'} · {stationOf(page.url.pathname)} · Ombudsman</title
  ></svelte:head
>

<div class="frame" data-density={look.density}>
  <CaseHeader {open} onlist={() => (listing = true)} />
  {#if failure}
    <main class="stopped" role="alert">
      <h1>The case could not be opened</h1>
      <p>{failure}</p>
      <a class="action" href="/">Back to the casebook</a>
    </main>
  {:else if open.summary === null}
    <main class="stopped"><p class="soft">Opening the case …</p></main>
  {:else}
    {#if !open.summary.isOwner}
      <p class="elsewhere" role="status">
        This case is also open in another tab, which looks after its sources and examinations. Here
        you can read, select and produce.
      </p>
    {/if}
    {#if asking}
      <p class="elsewhere" role="status">
        Your browser is asking whether this site may keep data. Allow it, so that no case is dropped
        when the disk runs short. Everything works meanwhile.
      </p>
    {/if}
    <AllowReading {open} />
    {#if open.failure}
      <p class="alarm" role="alert">
        {open.failure}
        <button class="action quiet" onclick={() => (open.failure = null)}>Close</button>
      </p>
    {/if}
    {@render children()}
    {#if viewer.current}
      {#await import('$lib/frame/FileViewer.svelte') then { default: FileViewer }}
        <FileViewer {open} />
      {/await}
    {/if}
  {/if}
  <JobStrip {open} />
</div>

<KeyList bind:open={listing} bind:tab={helpTab} />

<style>
  .frame {
    height: 100dvh;
    /* Labels for screen readers stand out of the flow and would lengthen the page. */
    position: relative;
    overflow: clip;
    display: flex;
    flex-direction: column;
    min-width: 0;
  }
  .stopped {
    flex: 1;
    padding: 40px;
    max-width: 640px;
    display: grid;
    gap: 12px;
    align-content: start;
    justify-items: start;
  }
  .elsewhere {
    margin: 0;
    padding: 6px 20px;
    background: var(--slate-wash);
    border-bottom: 1px solid var(--rule);
  }
  .alarm {
    margin: 0;
    padding: 8px 20px;
    color: var(--alarm);
    background: var(--sheet);
    border-bottom: 1px solid var(--alarm);
    display: flex;
    gap: 12px;
    align-items: center;
  }
</style>
