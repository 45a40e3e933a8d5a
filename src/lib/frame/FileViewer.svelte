<script lang="ts">
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import Minus from '@lucide/svelte/icons/minus';
  import Plus from '@lucide/svelte/icons/plus';
  import RotateCw from '@lucide/svelte/icons/rotate-cw';
  import { goto } from '$app/navigation';
  import { page as address } from '$app/state';
  import { withDays } from '$lib/day';
  import { bytes, count, errorText, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { latest } from '$lib/state/latest';
  import { reading } from '$lib/state/reading.svelte';
  import { saveBlob } from '$lib/state/save';
  import { viewer } from '$lib/state/viewer.svelte';
  import type { FileFacts, Preview } from '$lib/service/api/media-api';
  import FilePreview from './FilePreview.svelte';
  import NoteHere from '../ui/NoteHere.svelte';
  import PlotOfPlaces from '../ui/PlotOfPlaces.svelte';

  const { open }: { open: OpenCase } = $props();

  let preview = $state.raw<Preview | null>(null);
  let facts = $state.raw<FileFacts | null>(null);
  let zoom = $state(1);
  let turn = $state(0);
  let page = $state(1);
  let pages = $state(1);
  let size = $state<[number, number] | null>(null);
  const [lastPreview, lastFacts] = [latest(), latest()];

  $effect(() => {
    const { current } = viewer;
    [preview, facts, zoom, turn, page, pages, size] = [null, null, 1, 0, 1, 1, null];
    if (!current) return;
    const file = { ...current };
    const failed = (error: unknown): void => {
      preview = { kind: 'none', reason: `${errorText(error)}.`, head: new Uint8Array(0) };
    };
    const asked = open.desk.media.preview(file) as Promise<Preview>;
    lastPreview(asked, (found) => (preview = found)).catch(failed);
    lastFacts(open.desk.media.facts(file), (found) => (facts = found)).catch(failed);
  });

  const KEYS: Record<string, () => void> = {
    ArrowLeft: () => viewer.step(-1),
    ArrowRight: () => viewer.step(1),
    PageUp: () => turnPage(-1),
    PageDown: () => turnPage(1),
    '+': () => (zoom = Math.min(8, zoom * 1.25)),
    '=': () => (zoom = Math.min(8, zoom * 1.25)),
    '-': () => (zoom = Math.max(0.2, zoom / 1.25)),
    '0': () => (zoom = 1),
    r: () => (turn = (turn + 1) % 4)
  };

  function turnPage(by: number): void {
    page = Math.max(1, Math.min(pages, page + by));
  }

  function pressed(event: KeyboardEvent): void {
    const { target } = event;
    if (target instanceof HTMLElement && /^(INPUT|TEXTAREA|VIDEO)$/.test(target.tagName)) return;
    const act = KEYS[event.key];
    if (!act || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  }

  async function save(): Promise<void> {
    const { current } = viewer;
    if (!current) return;
    try {
      const blob = await open.desk.fileBlob(current.sourceId, current.path);
      if (blob) saveBlob(blob, current.name);
      else
        open.failure = `${current.name} is not available: its source is not kept in this browser, or its key must be entered again.`;
    } catch (error) {
      open.failure = errorText(error);
    }
  }

  function toLine({ correspondent, message }: FileFacts['lines'][number]): void {
    viewer.close();
    reading.widen();
    reading.facet = 'messages';
    [reading.correspondent, reading.message] = [correspondent, message];
    reading.save();
    void goto(`/case/${address.params.id}/read`);
  }

  const mismatch = $derived(
    facts?.byContent && facts.byName && facts.byContent !== facts.byName ? facts : null
  );
</script>

<Dialog
  open={viewer.current !== null}
  onOpenChange={(details) => {
    if (!details.open) viewer.close();
  }}
>
  <Portal>
    <Dialog.Backdrop class="backdrop" />
    <Dialog.Positioner class="positioner">
      <Dialog.Content class="sheet viewer" onkeydown={pressed}>
        {#if viewer.current}
          {@const file = viewer.current}
          <header>
            <Dialog.Title class="sheet-title">{file.name}</Dialog.Title>
            {#if viewer.files.length > 1}
              <button
                class="action quiet"
                disabled={viewer.at === 0}
                onclick={() => viewer.step(-1)}
                aria-label="Previous file"><ChevronLeft size={15} /></button
              >
              <span class="soft">{count(viewer.at + 1)} of {count(viewer.files.length)}</span>
              <button
                class="action quiet"
                disabled={viewer.at === viewer.files.length - 1}
                onclick={() => viewer.step(1)}
                aria-label="Next file"><ChevronRight size={15} /></button
              >
            {/if}
            <span class="end"></span>
            {#if pages > 1}
              <button class="action quiet" onclick={() => turnPage(-1)} aria-label="Previous page"
                >‹</button
              ><span class="soft">page {page} of {pages}</span><button
                class="action quiet"
                onclick={() => turnPage(1)}
                aria-label="Next page">›</button
              >
            {/if}
            {#if preview && ['picture', 'pdf', 'text'].includes(preview.kind)}
              <button class="action quiet" onclick={KEYS['-']} aria-label="Smaller"
                ><Minus size={14} /></button
              >
              <span class="soft">{Math.round(zoom * 100)} %</span>
              <button class="action quiet" onclick={KEYS['+']} aria-label="Larger"
                ><Plus size={14} /></button
              >
            {/if}
            {#if preview?.kind === 'picture'}
              <button class="action quiet" onclick={KEYS.r} aria-label="Turn"
                ><RotateCw size={14} /></button
              >
            {/if}
            <button class="action" onclick={() => void save()}>Save</button>
            <Dialog.CloseTrigger class="action quiet">Close</Dialog.CloseTrigger>
          </header>
          <div class="body">
            {#if preview}
              <FilePreview
                {preview}
                name={file.name}
                {zoom}
                {turn}
                {page}
                onpages={(n) => (pages = n)}
                onsize={(width, height) => (size = [width, height])}
              />
            {:else}<p class="soft waiting">Opening {file.name} …</p>{/if}
            <aside aria-label="What is known of the file">
              {#if facts}
                <dl>
                  <dt>Size</dt>
                  <dd>
                    {facts.bytes === null ? 'unknown' : bytes(facts.bytes)}{#if size}, {size[0]} × {size[1]}
                      pixels{/if}
                  </dd>
                  <dt>Type</dt>
                  <dd>
                    {facts.byContent ?? 'not recognised by content'}
                    {#if mismatch}<br /><b class="odd">File name suggests {mismatch.byName}.</b
                      >{/if}
                    {#if preview && 'isConverted' in preview && preview.isConverted}<br /><span
                        class="soft">A converted copy is shown.</span
                      >{/if}
                  </dd>
                  {#if facts.takenAt}<dt>Taken</dt>
                    <dd>
                      {withDays(facts.takenAt)}<br /><span class="soft"
                        >by the camera’s clock, zone unknown</span
                      >
                    </dd>{/if}
                  {#if facts.camera}<dt>Camera</dt>
                    <dd>{facts.camera}</dd>{/if}
                  <dt>SHA-256</dt>
                  <dd class="mono">{facts.sha256 ?? 'unknown'}</dd>
                  <dt>From</dt>
                  <dd>
                    {facts.source}<br /><span class="mono soft">{facts.path}</span>
                    {#if facts.copies > 0}<br /><span class="soft"
                        >and {plural(facts.copies, 'other place')}</span
                      >{/if}
                  </dd>
                  <dt>Messages</dt>
                  <dd>
                    {#each facts.lines as line, i (i)}
                      <button class="link" onclick={() => toLine(line)}
                        >line {line.line || 'not yet numbered'}, {line.with}</button
                      ><br /><span class="soft">{withDays(line.at)}</span><br />
                    {:else}not attached to a message{/each}
                  </dd>
                </dl>
                {#if facts.place}
                  <h3>Place recorded by the camera</h3>
                  <PlotOfPlaces lat={facts.place.lat} lon={facts.place.lon} />
                {/if}
                {#if facts.key !== null}<NoteHere {open} of={facts.key} kind="file" />{/if}
              {/if}
              <p class="soft keys">
                <kbd>←</kbd> <kbd>→</kbd> files, <kbd>+</kbd> <kbd>-</kbd> <kbd>0</kbd> size,
                <kbd>r</kbd> turn
              </p>
            </aside>
          </div>
        {/if}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  :global(.sheet.viewer) {
    width: min(1200px, 100%);
    height: 92vh;
    max-height: 92vh;
    padding: 0;
    display: flex;
    flex-direction: column;
    overflow: hidden;
  }
  :global(.viewer .sheet-title) {
    margin: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    max-width: 360px;
    font-size: 16px;
  }
  header {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 10px;
    padding: 8px 14px;
    border-bottom: 1px solid var(--rule);
  }
  header .action {
    padding: 3px 9px;
  }
  .end {
    margin-left: auto;
  }
  .body {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: minmax(0, 1fr) 290px;
  }
  aside {
    border-left: 1px solid var(--rule);
    padding: 12px 16px;
    overflow: auto;
  }
  dl {
    margin: 0;
    display: grid;
    grid-template-columns: 62px minmax(0, 1fr);
    gap: 7px 8px;
  }
  dt {
    color: var(--soft);
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
  h3 {
    font: 600 12px var(--font-plain);
    color: var(--soft);
    margin: 14px 0 5px;
  }
  .odd {
    color: var(--alarm);
    font-weight: 600;
  }
  .link {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
    text-align: left;
  }
  .waiting {
    padding: 30px;
  }
  .keys {
    margin: 16px 0 0;
    font-size: 12px;
  }
  @media (max-width: 760px) {
    .body {
      grid-template-columns: minmax(0, 1fr);
      grid-template-rows: minmax(0, 1fr) minmax(0, 38vh);
    }
    aside {
      border-left: 0;
      border-top: 1px solid var(--rule);
    }
  }
</style>
