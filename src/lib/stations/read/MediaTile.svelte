<script lang="ts">
  import { untrack } from 'svelte';
  import FileVideo from '@lucide/svelte/icons/film';
  import ImageOff from '@lucide/svelte/icons/image-off';
  import Mic from '@lucide/svelte/icons/mic';
  import { bytes as size, count } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { MediaRow } from '$lib/service/api/media-api';
  import { posterOf } from '$lib/stations/read/posters';
  import { markOf } from '../../ui/marks';

  interface Props {
    row: MediaRow;
    open: OpenCase;
    chosen: boolean;
    onchoose: (toHere: boolean) => void;
    onopen: () => void;
  }
  const { row, open, chosen, onchoose, onopen }: Props = $props();

  /** Milliseconds for which a tile has to stand in view. */
  const PASSING = 70;

  /** Bytes past which a video is not read for its poster alone. */
  const MOST_VIDEO = 200_000_000;

  let url = $state<string | null>(null);
  let none = $state(false);

  /** A row that comes again with a new label still is the same picture. */
  const what = $derived(row.key);

  $effect(() => {
    const key = what;
    const { kind, bytes, sourceId, path, missing, thumbnail } = untrack(() => row);
    url = null;
    none = false;
    if (kind === 'sound' || (kind === 'video' && (bytes ?? 0) > MOST_VIDEO)) return;
    let made: string | null = null;
    let isGone = false;
    const kept = thumbnail && new Blob([Uint8Array.from(thumbnail)]);
    // What only passes by while somebody scrolls is not read.
    const timer = setTimeout(() => {
      const small = missing
        ? Promise.resolve(kept)
        : kind === 'video'
          ? posterOf(`${open.summary!.record.id} ${key}`, () =>
              open.desk.pictureBlob(sourceId, path)
            )
          : open.desk.media.small(sourceId, path);
      small
        .then((blob) => {
          if (isGone) return;
          const shown = blob ?? kept;
          if (!shown) none = true;
          else url = made = URL.createObjectURL(shown);
        })
        // The tile says that it has no picture; opening it tells why.
        .catch(() => (none = true));
    }, PASSING);
    return () => {
      isGone = true;
      clearTimeout(timer);
      if (made) URL.revokeObjectURL(made);
    };
  });
</script>

<div class="tile {row.state}" class:chosen role="listitem">
  <button class="picture" onclick={onopen} aria-label="Look at {row.name}">
    {#if url}<img src={url} alt="" decoding="async" onerror={() => (none = true)} />
      {#if row.kind === 'video'}<span class="film"><FileVideo size={13} aria-hidden="true" /></span
        >{/if}
    {:else if row.kind === 'sound'}<Mic size={26} strokeWidth={1.3} aria-hidden="true" />
    {:else if row.kind === 'video'}<FileVideo size={26} strokeWidth={1.3} aria-hidden="true" />
    {:else if none || row.missing}<ImageOff size={26} strokeWidth={1.3} aria-hidden="true" />{/if}
    {#if row.labels.length > 0 || row.note}
      <span class="noted" title={[row.labels.join(', '), row.note].filter(Boolean).join(': ')}
        >{row.labels.length > 0 ? row.labels.join(', ') : 'note'}</span
      >
    {/if}
    {#if row.alike > 0}<span class="alike">+{count(row.alike)} alike</span>{/if}
  </button>
  <label class="pick">
    <input
      type="checkbox"
      checked={chosen}
      aria-label="Select {row.name}"
      onclick={(event) => {
        event.preventDefault();
        onchoose(event.shiftKey);
      }}
    />
    <b title={row.path}>{row.name}</b>
  </label>
  <small>
    {#if row.state !== 'live'}<span class="glyph" title={row.state}>{markOf(row.state)}</span>{/if}
    {row.bytes === null ? 'size unknown' : size(row.bytes)}{row.copies > 0
      ? `, ${row.copies + 1} places`
      : ''}{row.at ? `, ${row.at.slice(11, 16)}` : ''}
  </small>
  <small class:missing={row.missing}>
    {row.missing
      ? row.thumbnail
        ? 'thumbnail only'
        : 'not in the source'
      : row.person || 'not attached to a message'}
  </small>
</div>

<style>
  .tile {
    width: 148px;
    height: 178px;
    overflow: hidden;
    contain: strict;
  }
  .picture {
    all: unset;
    box-sizing: border-box;
    position: relative;
    width: 148px;
    height: 112px;
    display: grid;
    place-items: center;
    border: 1px solid var(--rule);
    background: var(--paper);
    color: var(--soft);
    overflow: hidden;
    cursor: pointer;
    margin-bottom: 3px;
  }
  .picture:focus-visible {
    outline: 2px solid var(--accent);
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  .alike {
    position: absolute;
    right: 4px;
    bottom: 4px;
    background: var(--sheet);
    color: var(--ink);
    border: 1px solid var(--rule);
    border-radius: 3px;
    padding: 0 5px;
    font: 11.5px var(--font-plain);
  }
  .film {
    position: absolute;
    right: 4px;
    top: 4px;
    line-height: 0;
    background: var(--sheet);
    color: var(--ink);
    border-radius: 3px;
    padding: 2px 3px;
  }
  .noted {
    position: absolute;
    left: 4px;
    bottom: 4px;
    max-width: 100px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    background: var(--accent);
    color: var(--on-accent);
    border-radius: 3px;
    padding: 0 5px;
    font: 11.5px var(--font-plain);
  }
  .pick {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr);
    gap: 6px;
    align-items: center;
    cursor: pointer;
  }
  .pick input {
    accent-color: var(--accent);
  }
  b {
    font: 600 12.5px var(--font-plain);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  small {
    display: block;
    font: 11.5px/1.4 var(--font-plain);
    color: var(--soft);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .glyph {
    color: var(--tone);
  }
  .chosen .picture {
    outline: 3px solid var(--accent);
    outline-offset: -2px;
  }
  .missing {
    color: var(--plum);
  }
</style>
