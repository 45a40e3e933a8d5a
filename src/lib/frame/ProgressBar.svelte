<script lang="ts">
  import { Progress } from '@skeletonlabs/skeleton-svelte';

  /** `value` counts percent. */
  const { label, value }: { label: string; value: number } = $props();
</script>

<Progress {value} class="progress">
  <Progress.Track class="progress-track" aria-label={label}>
    <Progress.Range class="progress-range" />
  </Progress.Track>
</Progress>

<style>
  :global(.progress) {
    flex: 1;
    max-width: 220px;
    min-width: 60px;
  }
  :global(.progress-track) {
    height: 6px;
    border-radius: 0;
    background: var(--hair);
  }
  :global(.progress-range) {
    height: 6px;
    border-radius: 0;
    background: var(--accent);
  }
</style>
