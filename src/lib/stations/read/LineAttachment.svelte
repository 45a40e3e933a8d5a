<script lang="ts">
  import Paperclip from '@lucide/svelte/icons/paperclip';
  import { fileKind } from '$lib/stations/read/file-kinds';
  import { bytes, errorText } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { viewer } from '$lib/state/viewer.svelte';
  import type { LineFile } from '$lib/service/api/protocol';
  import FileJoin from './FileJoin.svelte';
  import LineSound from './LineSound.svelte';
  import MediaPicture from './MediaPicture.svelte';

  interface Props {
    file: LineFile;
    open: OpenCase;
    /** All files of the line, to go through. */
    files: readonly LineFile[];
    /** Place of its buttons among those that Tab goes to. */
    tab: 0 | -1;
  }
  const { file, open, files, tab }: Props = $props();

  const kind = $derived((file.mime ?? '').split('/')[0]);
  const isShown = $derived(kind === 'image' && (!file.missing || file.thumbnail !== null));

  /** The store says where the file was, which its name alone does not. */
  const isPlaced = $derived(file.path !== file.name && file.path !== file.id);

  let isJoining = $state(false);

  async function takeOff(): Promise<void> {
    try {
      await open.desk.joinFile(file.id, null);
    } catch (error) {
      open.failure = `The file was not removed: ${errorText(error)}`;
    }
  }

  function look(): void {
    const there = files.filter(({ missing }) => !missing);
    viewer.open(there, Math.max(0, there.indexOf(file)));
  }
</script>

{#if isShown}
  <div class="picture">
    {#if file.missing}<MediaPicture row={file} {open} whole />
    {:else}
      <button class="look" tabindex={tab} onclick={look} aria-label="Look at {file.name}"
        ><MediaPicture row={file} {open} whole /></button
      >
    {/if}
  </div>
{:else if kind === 'audio' && !file.missing}<LineSound {file} {open} {tab} />{/if}
<p class="file">
  <Paperclip size={12} aria-hidden="true" />
  {file.name}{file.mime ? `, ${fileKind(file.mime)}` : ''} · {file.missing
    ? file.thumbnail
      ? 'not in the source, thumbnail only'
      : 'not in the source'
    : file.bytes === null
      ? 'size unknown'
      : bytes(file.bytes)}
  {#if file.missing && isPlaced}
    <span class="place">the store names its place: <span class="mono">{file.path}</span></span>
  {/if}
  {#if file.missing}
    <button class="open" tabindex={tab} onclick={() => (isJoining = true)}>Join a file</button>
  {/if}
  {#if file.byHand}
    <b>joined by hand</b>
    <button class="open" tabindex={tab} onclick={() => void takeOff()}>Remove it</button>
  {/if}
  {#if !file.missing}
    <button class="open" tabindex={tab} onclick={look} aria-label="Open {file.name}">Open</button>
  {/if}
</p>

{#if isJoining}<FileJoin {file} {open} onclose={() => (isJoining = false)} />{/if}

<style>
  .picture {
    margin: 4px 0 2px;
  }
  .look {
    all: unset;
    cursor: zoom-in;
    display: block;
  }
  .look:focus-visible,
  .open:focus-visible {
    outline: 2px solid var(--accent);
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
  .place {
    overflow-wrap: anywhere;
  }
  .open {
    all: unset;
    cursor: pointer;
    color: var(--accent);
    text-decoration: underline;
  }
</style>
