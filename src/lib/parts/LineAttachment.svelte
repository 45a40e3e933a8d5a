<script lang="ts">
  import Paperclip from '@lucide/svelte/icons/paperclip';
  import Play from '@lucide/svelte/icons/play';
  import { bytes } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { LineFile } from '$lib/worker/protocol';
  import MediaPicture from './MediaPicture.svelte';

  const { file, open }: { file: LineFile; open: OpenCase } = $props();

  const kind = $derived((file.mime ?? '').split('/')[0]);
  const isShown = $derived(kind === 'image' && (!file.missing || file.thumbnail !== null));
  const isHeard = $derived((kind === 'audio' || kind === 'video') && !file.missing);
  let url = $state<string | null>(null);
  let silent = $state(false);

  $effect(() => () => {
    if (url) URL.revokeObjectURL(url);
  });

  async function play(): Promise<void> {
    const blob = await open.desk.pictureBlob(file.sourceId, file.path);
    if (!blob) silent = true;
    else url = URL.createObjectURL(blob.type ? blob : new Blob([blob], { type: file.mime ?? '' }));
  }
</script>

{#if isShown}<div class="picture"><MediaPicture row={file} {open} whole /></div>{/if}
{#if url && !silent}
  {#if kind === 'video'}
    <!-- svelte-ignore a11y_media_has_caption (evidence has none) -->
    <video src={url} controls autoplay onerror={() => (silent = true)}></video>
  {:else}<audio src={url} controls autoplay onerror={() => (silent = true)}></audio>{/if}
{/if}
<p class="file">
  <Paperclip size={12} aria-hidden="true" />
  {file.name}{file.mime ? `, ${file.mime}` : ''} · {file.missing
    ? file.thumbnail
      ? 'not in the source, only its small picture'
      : 'not in the source'
    : file.bytes === null
      ? 'size unknown'
      : bytes(file.bytes)}
  {#if silent}· this browser cannot play it; it can be saved from Files
  {:else if isHeard && !url}
    <button onclick={() => void play()} aria-label="Play {file.name}"
      ><Play size={12} aria-hidden="true" /> Play</button
    >
  {/if}
</p>

<style>
  .picture {
    margin: 4px 0 2px;
  }
  video {
    max-width: min(100%, 320px);
    max-height: 240px;
  }
  audio {
    height: 32px;
    max-width: 100%;
  }
  .file {
    margin: 0;
    font: 11.5px/1.8 var(--font-plain);
    color: var(--soft);
    display: flex;
    align-items: center;
    gap: 4px;
    flex-wrap: wrap;
  }
  button {
    all: unset;
    cursor: pointer;
    color: var(--accent);
    display: inline-flex;
    align-items: center;
    gap: 2px;
  }
  button:focus-visible {
    outline: 2px solid var(--accent);
  }
</style>
