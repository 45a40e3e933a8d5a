<script lang="ts">
  import type { Counts } from '$core/records';

  const { counts }: { counts: Counts } = $props();

  const total = $derived(Object.values(counts).reduce((sum, n) => sum + n, 0));
  const parts = $derived(
    [
      { key: 'live', n: counts.live, color: 'var(--bar)' },
      { key: 'held', n: counts.held, color: 'var(--slate)' },
      { key: 'recovered', n: counts.recovered, color: 'var(--ochre-bar)' },
      { key: 'fragment', n: counts.fragment, color: 'var(--plum-bar)' },
      { key: 'earlier', n: counts.earlier, color: 'var(--teal)' }
    ].filter(({ n }) => n > 0)
  );
</script>

<div class="bar" aria-hidden="true">
  {#each parts as { key, n, color } (key)}<i
      style:width="{(100 * n) / total}%"
      style:background={color}
    ></i>{/each}
</div>

<style>
  .bar {
    display: flex;
    gap: 1px;
    height: 9px;
    margin-bottom: 4px;
  }
  i {
    min-width: 2px;
  }
</style>
