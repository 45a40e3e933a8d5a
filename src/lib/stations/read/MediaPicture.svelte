<script lang="ts">
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { LineFile } from '$lib/service/api/protocol';

  interface Props {
    row: Omit<LineFile, 'id'>;
    open: OpenCase;
    /** Whole, at reading size, instead of cut to fill its frame. */
    whole?: boolean;
  }
  const { row, open, whole = false }: Props = $props();

  let url = $state<string | null>(null);
  let broken = $state(false);
  let frame = $state<HTMLDivElement>();

  async function picture(): Promise<Blob | null> {
    if (!row.missing) {
      const blob = await open.desk.pictureBlob(row.sourceId, row.path);
      if (blob) return blob.type === '' ? new Blob([blob], { type: row.mime ?? '' }) : blob;
    }
    return row.thumbnail && new Blob([Uint8Array.from(row.thumbnail)]);
  }

  // Only what comes into view is read.
  $effect(() => {
    if (!frame) return;
    let made: string | null = null;
    let isGone = false;
    const watcher = new IntersectionObserver((seen) => {
      if (!seen.some((entry) => entry.isIntersecting)) return;
      watcher.disconnect();
      picture()
        .then((blob) => {
          if (isGone) return;
          if (!blob) broken = true;
          else url = made = URL.createObjectURL(blob);
        })
        // The place of the picture says that there is none; opening the file tells why.
        .catch(() => (broken = true));
    });
    watcher.observe(frame);
    return () => {
      isGone = true;
      watcher.disconnect();
      if (made) URL.revokeObjectURL(made);
    };
  });
</script>

<div bind:this={frame} class:whole>
  {#if url && !broken}<img src={url} alt={row.name} onerror={() => (broken = true)} />
  {:else if broken}<small>cannot be shown here</small>{/if}
</div>

<style>
  div {
    width: 100%;
    height: 100%;
    display: grid;
    place-items: center;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
  .whole {
    justify-items: start;
    min-height: 60px;
  }
  .whole img {
    width: auto;
    height: auto;
    max-width: min(100%, 260px);
    max-height: 220px;
    object-fit: contain;
    border: 1px solid var(--rule);
  }
  small {
    font-size: 11.5px;
    color: var(--soft);
  }
</style>
