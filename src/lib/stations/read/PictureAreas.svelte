<script lang="ts">
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import { errorText } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { LineFile } from '$lib/service/api/protocol';

  interface Area {
    x: number;
    y: number;
    width: number;
    height: number;
  }
  interface Props {
    open: OpenCase;
    file: LineFile;
    onclose: () => void;
    /** Shares of the picture's width and height. */
    onkeep: (areas: Area[]) => void;
  }
  const { open, file, onclose, onkeep }: Props = $props();

  let url = $state<string | null>(null);
  let areas = $state<Area[]>([]);
  let drawn = $state<{ from: [number, number]; to: [number, number] } | null>(null);
  let frame = $state<HTMLDivElement>();

  $effect(() => {
    let made: string | null = null;
    let isGone = false;
    open.desk
      .pictureBlob(file.sourceId, file.path)
      .then((blob) => {
        if (isGone) return;
        if (!blob) throw new Error('its bytes are not kept in this browser');
        made = URL.createObjectURL(blob);
        url = made;
      })
      .catch((error: unknown) => {
        open.failure = `${file.name} cannot be shown: ${errorText(error)}.`;
        onclose();
      });
    return () => {
      if (made) URL.revokeObjectURL(made);
    };
  });

  function placeOf(event: PointerEvent): [number, number] {
    const box = frame!.getBoundingClientRect();
    const within = (value: number): number => Math.max(0, Math.min(1, value));
    return [
      within((event.clientX - box.left) / box.width),
      within((event.clientY - box.top) / box.height)
    ];
  }

  function begin(event: PointerEvent): void {
    event.preventDefault();
    frame!.setPointerCapture(event.pointerId);
    const place = placeOf(event);
    drawn = { from: place, to: place };
  }

  function end(): void {
    if (!drawn) return;
    const area = areaOf(drawn);
    // A slip of the hand is no area.
    if (area.width > 0.005 && area.height > 0.005) areas.push(area);
    drawn = null;
  }

  function areaOf({ from, to }: { from: [number, number]; to: [number, number] }): Area {
    return {
      x: Math.min(from[0], to[0]),
      y: Math.min(from[1], to[1]),
      width: Math.abs(from[0] - to[0]),
      height: Math.abs(from[1] - to[1])
    };
  }

  const shown = $derived(drawn ? [...areas, areaOf(drawn)] : areas);
  const SIDES = [
    ['x', 'left'],
    ['y', 'top'],
    ['width', 'width'],
    ['height', 'height']
  ] as const;
  const percent = (value: number): string => `${(value * 100).toFixed(2)}%`;
</script>

<Dialog open={true} onOpenChange={(details) => !details.open && onclose()}>
  <Portal>
    <Dialog.Backdrop class="backdrop" />
    <Dialog.Positioner class="positioner">
      <Dialog.Content class="sheet wide">
        <Dialog.Title class="sheet-title">Cover part of {file.name}</Dialog.Title>
        <p class="soft">
          Draw over what is to be covered. Only the painted copy goes into records; the original
          stays in the evidence.
        </p>
        {#if url}
          <div
            class="frame"
            role="presentation"
            bind:this={frame}
            onpointerdown={begin}
            onpointermove={(event) => drawn && (drawn.to = placeOf(event))}
            onpointerup={end}
            onpointercancel={() => (drawn = null)}
          >
            <img src={url} alt={file.name} draggable="false" />
            {#each shown as area, i (i)}
              <i
                style:left={percent(area.x)}
                style:top={percent(area.y)}
                style:width={percent(area.width)}
                style:height={percent(area.height)}
              ></i>
            {/each}
          </div>
        {:else}<p role="status">Reading the picture …</p>{/if}
        {#each areas as area, i (i)}
          <div class="numbers">
            <span>Area {i + 1}, in percent</span>
            {#each SIDES as [side, title] (side)}
              <label
                >{title}<input
                  type="number"
                  min="0"
                  max="100"
                  step="1"
                  value={Math.round(area[side] * 100)}
                  onchange={(event) =>
                    (areas[i]![side] = Math.max(
                      0,
                      Math.min(1, event.currentTarget.valueAsNumber / 100 || 0)
                    ))}
                /></label
              >
            {/each}
            <button class="link" onclick={() => areas.splice(i, 1)}>Remove</button>
          </div>
        {/each}
        <div class="end">
          <button
            class="action quiet"
            onclick={() => areas.push({ x: 0.25, y: 0.25, width: 0.5, height: 0.5 })}
            >Add an area by numbers</button
          >
          <button class="action quiet" onclick={onclose}>Cancel</button>
          <button
            class="action main"
            disabled={areas.length === 0}
            onclick={() => onkeep($state.snapshot(areas))}
            >Cover {areas.length === 1 ? 'the area' : `${areas.length} areas`}</button
          >
        </div>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  .frame {
    position: relative;
    width: fit-content;
    max-width: 100%;
    margin: 10px auto;
    cursor: crosshair;
    touch-action: none;
    user-select: none;
    border: 1px solid var(--rule);
  }
  img {
    display: block;
    max-width: 100%;
    max-height: 56vh;
    min-width: 120px;
    pointer-events: none;
  }
  i {
    position: absolute;
    background: var(--bar-ink, #1e2528);
    outline: 1px solid #fff;
  }
  .numbers {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
    font-size: 12px;
    color: var(--soft);
    margin: 4px 0;
  }
  .numbers input {
    width: 58px;
    margin-left: 4px;
    font: inherit;
    padding: 1px 4px;
    border: 1px solid var(--rule);
    background: var(--sheet);
    color: var(--ink);
  }
  .link {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
  .end {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    margin-top: 12px;
  }
</style>
