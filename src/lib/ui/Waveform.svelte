<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import WaveSurfer from 'wavesurfer.js';
  import { look } from '$lib/state/look.svelte';

  interface Props {
    blob: Blob;
    label: string;
    height?: number;
    tab?: 0 | -1;
    onfail: (reason: string) => void;
  }
  const { blob, label, height = 40, tab = 0, onfail }: Props = $props();

  let holder: HTMLDivElement;
  let wave: WaveSurfer | null = null;
  let playing = $state(false);
  let at = $state(0);
  let length = $state<number | null>(null);

  $effect(() => {
    void look.mode;
    const style = getComputedStyle(document.documentElement);
    const made = WaveSurfer.create({
      container: holder,
      height,
      waveColor: style.getPropertyValue('--bar').trim(),
      progressColor: style.getPropertyValue('--accent').trim(),
      cursorColor: style.getPropertyValue('--accent').trim(),
      barWidth: 2,
      barGap: 1,
      dragToSeek: true
    });
    made.on('ready', (seconds) => (length = seconds));
    made.on('timeupdate', (seconds) => (at = seconds));
    made.on('play', () => (playing = true));
    made.on('pause', () => (playing = false));
    made.on('error', (error) => onfail(error.message));
    // What fails is told by the event too.
    made.loadBlob(blob).catch(() => undefined);
    wave = made;
    return () => {
      wave = null;
      made.destroy();
    };
  });

  function time(seconds: number): string {
    const whole = Math.round(seconds);
    return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
  }

  function toggle(): void {
    void wave?.playPause().catch((error: unknown) => onfail(String(error)));
  }
</script>

<div class="wave">
  <button
    onclick={toggle}
    aria-label="{playing ? 'Pause' : 'Play'} {label}"
    tabindex={tab}
    disabled={length === null}
  >
    {#if playing}<Pause size={15} />{:else}<Play size={15} />{/if}
  </button>
  <div class="bars" bind:this={holder}></div>
  <span class="time" data-testid="sound-length"
    >{playing || at > 0 ? `${time(at)} of ` : ''}{length === null ? '…' : time(length)}</span
  >
</div>

<style>
  .wave {
    display: grid;
    grid-template-columns: auto minmax(120px, 1fr) auto;
    align-items: center;
    gap: 8px;
    width: 100%;
    max-width: 520px;
    font: 12px var(--font-plain);
  }
  button {
    border: 1px solid var(--rule);
    border-radius: 99px;
    padding: 6px;
    background: var(--sheet);
    color: var(--accent);
    cursor: pointer;
  }
  .time {
    color: var(--soft);
    font-variant-numeric: tabular-nums;
  }
</style>
