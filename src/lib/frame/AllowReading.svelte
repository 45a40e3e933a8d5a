<script lang="ts">
  import { errorText, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';

  /** One press for all sources that the browser has to be asked about before they can be read. */
  const { open }: { open: OpenCase } = $props();

  const closed = $derived(open.closed);
  const names = $derived(closed.map(({ name }) => name).slice(0, 3));

  $effect(() => {
    void open.version;
    void open.failure;
    look();
  });

  function look(): void {
    open.lookClosed().catch((error: unknown) => (open.failure = errorText(error)));
  }

  /** It is in no standard yet. */
  interface AskedHandle {
    requestPermission?(how: { mode: 'read' }): Promise<PermissionState>;
  }

  async function allow(): Promise<void> {
    try {
      // Asked at once, while the press still counts; the browser puts the questions together.
      const handles = closed.flatMap((source) => source.handles) as AskedHandle[];
      await Promise.allSettled(
        handles.map((handle) => handle.requestPermission?.({ mode: 'read' }))
      );
      await open.lookClosed();
      open.version++;
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

<svelte:window onfocus={look} />

{#if closed.length > 0}
  <p role="status">
    <span
      >{closed.length > 3 ? `${plural(closed.length, 'source')} lie` : names.join(', ')}
      {closed.length > 3 ? '' : closed.length === 1 ? 'lies' : 'lie'} outside this browser, which asks
      again before it reads there.</span
    >
    <button class="action" onclick={allow}>Allow reading</button>
  </p>
{/if}

<style>
  p {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 14px;
    margin: 0;
    padding: 6px 20px;
    background: var(--slate-wash);
    border-bottom: 1px solid var(--rule);
    font-size: 13px;
  }
</style>
