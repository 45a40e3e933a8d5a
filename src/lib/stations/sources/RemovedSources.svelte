<script lang="ts">
  import { errorText, time } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { SourceRecord } from '$lib/storage/schema';

  /** Sources that were removed since the case was opened. */
  const { open }: { open: OpenCase } = $props();

  let removed = $state.raw<SourceRecord[]>([]);

  $effect(() => {
    void open.version;
    open.desk.sources.removed().then(
      (found) => (removed = found),
      (error: unknown) => (open.failure = errorText(error))
    );
  });

  async function restore(id: string): Promise<void> {
    try {
      await open.desk.sources.restore(id);
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

{#if removed.length > 0}
  <section aria-label="Removed sources">
    <h2>Removed</h2>
    {#each removed as source (source.id)}
      <p>
        <span>{source.name}</span>
        <span class="soft"
          >removed at {time(source.removedAt ?? 0)}; kept until the case is closed</span
        >
        <button
          class="action quiet"
          onclick={() => restore(source.id)}
          disabled={!open.summary?.isOwner}
          >Bring back<span class="visually-hidden"> {source.name}</span></button
        >
      </p>
    {/each}
  </section>
{/if}

<style>
  section {
    border: 1px dashed var(--rule);
    padding: 10px 14px;
    margin-top: 12px;
  }
  h2 {
    font-size: 14px;
  }
  p {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 14px;
    margin: 4px 0 0;
  }
  .action {
    margin-left: auto;
  }
  span {
    overflow-wrap: anywhere;
  }
</style>
