<script lang="ts">
  import { errorText } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { EvidenceHandle } from '$lib/worker/protocol';

  interface Props {
    sourceId: string;
    name: string;
    open: OpenCase;
  }
  const { sourceId, name, open }: Props = $props();

  /** What the browser has to be asked about. */
  let closed = $state.raw<EvidenceHandle[]>([]);

  async function look(): Promise<void> {
    closed = await open.desk.closedHandles(sourceId);
  }

  $effect(() => {
    void open.version;
    look().catch((error: unknown) => (open.failure = errorText(error)));
  });

  /** It is in no standard yet. */
  interface AskedHandle {
    requestPermission?(how: { mode: 'read' }): Promise<PermissionState>;
  }

  async function allow(): Promise<void> {
    try {
      for (const handle of closed)
        await (handle as AskedHandle).requestPermission?.({ mode: 'read' });
      await look();
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

{#if closed.length > 0}
  <p>
    <span>{name} lies outside this browser, which asks again before it reads there.</span>
    <button class="action" onclick={allow}>Allow reading</button>
  </p>
{/if}

<style>
  p {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px 14px;
    margin: 0;
    padding: 8px 14px 10px;
    border-top: 1px solid var(--hair);
    font-size: 13px;
  }
</style>
