<script lang="ts">
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { LineFile } from '$lib/service/api/protocol';
  import type Waveform from '../../ui/Waveform.svelte';

  const { file, open, tab }: { file: LineFile; open: OpenCase; tab: 0 | -1 } = $props();

  let frame = $state<HTMLDivElement>();
  let blob = $state.raw<Blob | null>(null);
  let failed = $state(false);
  let Wave = $state<typeof Waveform | null>(null);

  async function load(): Promise<void> {
    const [part, found] = await Promise.all([
      import('../../ui/Waveform.svelte'),
      open.desk.pictureBlob(file.sourceId, file.path)
    ]);
    if (!found) failed = true;
    Wave = part.default;
    blob = found && (found.type ? found : new Blob([found], { type: file.mime ?? '' }));
  }

  // Only what comes into view is read.
  $effect(() => {
    if (!frame) return;
    const watcher = new IntersectionObserver((seen) => {
      if (!seen.some((entry) => entry.isIntersecting)) return;
      watcher.disconnect();
      load().catch(() => (failed = true));
    });
    watcher.observe(frame);
    return () => watcher.disconnect();
  });
</script>

<div class="sound" bind:this={frame}>
  {#if failed}<small>cannot be played here; it can be saved</small>
  {:else if Wave && blob}<Wave {blob} {tab} label={file.name} onfail={() => (failed = true)} />{/if}
</div>

<style>
  .sound {
    min-height: 42px;
    display: grid;
    align-items: center;
  }
  small {
    font: 11.5px var(--font-plain);
    color: var(--soft);
  }
</style>
