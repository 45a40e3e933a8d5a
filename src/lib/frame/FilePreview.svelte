<script lang="ts">
  import type { Preview } from '$lib/service/api/media-api';
  import HexBytes from '../ui/HexBytes.svelte';
  import PagePreview from '../ui/PagePreview.svelte';
  import Waveform from '../ui/Waveform.svelte';

  interface Props {
    preview: Preview;
    name: string;
    zoom: number;
    turn: number;
    page: number;
    onpages: (pages: number) => void;
    onsize: (width: number, height: number) => void;
  }
  const { preview, name, zoom, turn, page, onpages, onsize }: Props = $props();

  function sized(image: EventTarget): void {
    if (image instanceof HTMLImageElement) onsize(image.naturalWidth, image.naturalHeight);
  }

  let failed = $state<string | null>(null);
  let url = $state<string | null>(null);

  $effect(() => {
    failed = null;
    if (preview.kind !== 'picture' && preview.kind !== 'video') return;
    const made = URL.createObjectURL(preview.blob);
    url = made;
    return () => {
      url = null;
      URL.revokeObjectURL(made);
    };
  });
</script>

<div class="stage" data-kind={preview.kind}>
  {#if failed}
    <p class="cannot">{name} cannot be shown: {failed} It can be saved.</p>
  {:else if preview.kind === 'picture' && url}
    <img
      src={url}
      alt={name}
      style:transform="rotate({turn * 90}deg) scale({zoom})"
      class:turned={turn % 2 === 1}
      onload={({ currentTarget }) => sized(currentTarget)}
      onerror={() => (failed = 'it is damaged, or of a kind that this browser does not know.')}
    />
  {:else if preview.kind === 'video' && url}
    <!-- svelte-ignore a11y_media_has_caption (evidence has none) -->
    <video
      src={url}
      controls
      onloadedmetadata={(event) =>
        onsize(event.currentTarget.videoWidth, event.currentTarget.videoHeight)}
      onerror={() => (failed = 'this browser does not know how it was recorded.')}
    ></video>
  {:else if preview.kind === 'sound'}
    <div class="sheet-of">
      <Waveform
        blob={preview.blob}
        label={name}
        height={90}
        onfail={() =>
          (failed = 'this browser does not know how it was recorded, or it is damaged.')}
      />
    </div>
  {:else if preview.kind === 'pdf'}
    <div class="paper" style:width="{70 * zoom}%">
      <PagePreview
        pdf={preview.bytes}
        {page}
        label="Page {page} of {name}"
        onfail={(reason) => (failed = reason)}
        {onpages}
      />
    </div>
  {:else if preview.kind === 'text'}
    {#if preview.isWordsAlone}
      <p class="sheet-of soft">Text only; save it to see the layout.</p>
    {/if}
    <pre class="sheet-of" style:font-size="{13 * zoom}px">{preview.text}{preview.isCut
        ? '\n\n[…] The rest can be read when it is saved.'
        : ''}</pre>
  {:else if preview.kind === 'cards'}
    <div class="sheet-of">
      {#each preview.cards as card, i (i)}
        <h3>{card.name}</h3>
        <p>{[...card.phones, ...card.emails].join(' · ')}</p>
      {/each}
    </div>
  {:else if preview.kind === 'events'}
    <div class="sheet-of">
      {#each preview.events as event, i (i)}
        <h3>{event.summary || 'without a title'}</h3>
        <p>
          {event.starts}{event.ends ? ` to ${event.ends}` : ''}{event.place
            ? `, ${event.place}`
            : ''}
        </p>
        {#if event.attendees.length > 0}<p class="soft">with {event.attendees.join(', ')}</p>{/if}
      {/each}
    </div>
  {:else if preview.kind === 'none'}
    <div class="sheet-of cannot">
      <p>{name} cannot be shown: {preview.reason}</p>
      {#if preview.head.length > 0}
        <p class="soft">It begins with these bytes:</p>
        <HexBytes bytes={preview.head} offset={0} rows={8} rebuilt={0} />
      {/if}
    </div>
  {/if}
</div>

<style>
  .stage {
    display: grid;
    place-items: center;
    overflow: auto;
    height: 100%;
    min-height: 0;
    padding: 12px;
    background: var(--paper);
  }
  img {
    max-width: 100%;
    max-height: calc(86vh - 110px);
    object-fit: contain;
    transition: transform 0.12s;
  }
  .turned {
    max-width: calc(86vh - 110px);
  }
  video {
    max-width: 100%;
    max-height: calc(86vh - 110px);
  }
  .sheet-of {
    background: var(--sheet);
    border: 1px solid var(--rule);
    padding: 18px 22px;
    width: min(720px, 100%);
    align-self: start;
    margin: 0;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  h3 {
    font-size: 16px;
    margin-top: 8px;
  }
  p {
    margin: 0 0 4px;
  }
  pre {
    font-family: var(--font-code);
  }
  .paper {
    align-self: start;
    min-width: 260px;
  }
</style>
