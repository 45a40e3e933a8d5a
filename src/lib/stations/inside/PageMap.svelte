<script lang="ts">
  import { PAGE_KINDS } from '$core/sqlite';
  import { count, plural } from '$lib/format';
  import { look } from '$lib/state/look.svelte';

  interface Props {
    /** Place of each page's kind in `PAGE_KINDS`. */
    kinds: Uint8Array;
    /** Records recovered, by page. */
    recovered: ReadonlyMap<number, number>;
    selected: number;
    onselect: (page: number) => void;
  }
  const { kinds, recovered, selected, onselect }: Props = $props();

  const PITCH = 15;
  const CELL = 13;
  let box = $state<HTMLDivElement>();
  let canvas = $state<HTMLCanvasElement>();
  let legend = $state<HTMLUListElement>();
  let width = $state(0);
  let height = $state(0);
  let top = $state(0);

  const columns = $derived(Math.max(1, Math.floor((width - 2) / PITCH)));
  const rows = $derived(Math.ceil(kinds.length / columns));
  const present = $derived([...new Set(kinds)].sort((a, b) => a - b));
  const word = $derived.by(() => {
    const kind = PAGE_KINDS[kinds[selected - 1] ?? 0];
    const found = recovered.get(selected) ?? 0;
    return `Page ${selected}, ${kind}${found > 0 ? `, ${plural(found, 'record')} recovered` : ''}`;
  });

  /** Colours are those of the legend, so that both always agree. */
  function colours(): { kinds: string[]; found: string; frame: string } {
    const of = (name: string): string => {
      const swatch = legend?.querySelector(`[data-kind="${name}"]`);
      return swatch ? getComputedStyle(swatch).backgroundColor : 'gray';
    };
    const frame = getComputedStyle(legend!).color;
    return { kinds: PAGE_KINDS.map((_, i) => of(String(i))), found: of('found'), frame };
  }

  $effect(() => {
    void look.mode;
    const context = canvas?.getContext('2d');
    if (!context || !canvas || !legend || width === 0) return;
    const ratio = devicePixelRatio;
    canvas.width = width * ratio;
    canvas.height = height * ratio;
    context.scale(ratio, ratio);
    const paint = colours();
    const first = Math.floor(top / PITCH);
    const last = Math.min(rows, Math.ceil((top + height) / PITCH));
    for (let row = first; row < last; row++) {
      for (let column = 0; column < columns; column++) {
        const page = row * columns + column + 1;
        if (page > kinds.length) break;
        draw(context, page, column * PITCH + 1, row * PITCH - top + 1, paint);
      }
    }
  });

  function draw(
    context: CanvasRenderingContext2D,
    page: number,
    x: number,
    y: number,
    paint: ReturnType<typeof colours>
  ): void {
    context.fillStyle = paint.kinds[kinds[page - 1]!]!;
    context.fillRect(x, y, CELL, CELL);
    if (recovered.has(page)) {
      context.fillStyle = paint.found;
      context.fillRect(x, y + CELL / 2, CELL, CELL / 2);
    }
    if (page !== selected) return;
    context.strokeStyle = paint.frame;
    context.lineWidth = 2;
    context.strokeRect(x - 0.5, y - 0.5, CELL + 1, CELL + 1);
  }

  // What is selected from outside is brought into view.
  $effect(() => {
    const row = Math.floor((selected - 1) / columns) * PITCH;
    if (!box || height === 0) return;
    if (row < box.scrollTop || row + PITCH > box.scrollTop + height)
      box.scrollTop = row - height / 2;
  });

  function picked(event: MouseEvent): void {
    const bounds = canvas!.getBoundingClientRect();
    const column = Math.floor((event.clientX - bounds.left) / PITCH);
    const row = Math.floor((event.clientY - bounds.top + top) / PITCH);
    if (column < columns) go(row * columns + column + 1);
  }

  function go(page: number): void {
    if (page >= 1 && page <= kinds.length) onselect(page);
  }

  function nextRecovered(step: 1 | -1): void {
    const pages = [...recovered.keys()].sort((a, b) => a - b);
    const next =
      step > 0 ? pages.find((page) => page > selected) : pages.findLast((page) => page < selected);
    if (next !== undefined) go(next);
  }

  function pressed(event: KeyboardEvent): void {
    const steps: Record<string, number> = {
      ArrowRight: 1,
      ArrowLeft: -1,
      ArrowDown: columns,
      ArrowUp: -columns,
      PageDown: columns * 10,
      PageUp: -columns * 10
    };
    const step = steps[event.key];
    if (step === undefined) return;
    event.preventDefault();
    go(Math.min(kinds.length, Math.max(1, selected + step)));
  }
</script>

<div class="head">
  <h2>Pages by role</h2>
  {#if recovered.size > 0}
    <span>
      <button onclick={() => nextRecovered(-1)} aria-label="Previous page with recovered records"
        >‹</button
      >
      <button onclick={() => nextRecovered(1)} aria-label="Next page with recovered records"
        >›</button
      >
      {count(recovered.size)} with recovered records
    </span>
  {/if}
</div>
<div
  class="box"
  bind:this={box}
  bind:clientWidth={width}
  bind:clientHeight={height}
  onscroll={() => (top = box!.scrollTop)}
  role="slider"
  tabindex="0"
  aria-label="Page of the file"
  aria-valuemin={1}
  aria-valuemax={kinds.length}
  aria-valuenow={selected}
  aria-valuetext={word}
  onkeydown={pressed}
>
  <div style:height="{rows * PITCH + 2}px">
    <canvas
      bind:this={canvas}
      style:width="{width}px"
      style:height="{height}px"
      onclick={picked}
      aria-hidden="true"
    ></canvas>
  </div>
</div>
<p class="now">{word}</p>
<ul bind:this={legend}>
  {#each present as kind (kind)}
    <li><i data-kind={kind} class="k{kind}"></i>{PAGE_KINDS[kind]}</li>
  {/each}
  <li><i data-kind="found" class="found"></i>recovered here</li>
</ul>

<style>
  .head {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 10px;
    color: var(--soft);
    font-size: 12px;
  }
  h2 {
    font: 600 12px var(--font-plain);
    color: var(--soft);
    margin: 0 0 8px;
  }
  .head button {
    padding: 0 7px;
    border: 1px solid var(--rule);
    border-radius: 2px;
    cursor: pointer;
    color: var(--ink);
  }
  .box {
    overflow-y: auto;
    min-height: 90px;
    max-height: 252px;
    flex: 0 1 auto;
    outline-offset: 3px;
  }
  canvas {
    position: sticky;
    top: 0;
    display: block;
    cursor: pointer;
  }
  .now {
    margin: 8px 0 0;
    font-size: 12.5px;
  }
  ul {
    list-style: none;
    margin: 10px 0 0;
    padding: 0;
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 4px 12px;
    font-size: 12.5px;
    color: var(--accent);
  }
  li {
    display: flex;
    align-items: center;
    gap: 7px;
    color: var(--ink);
  }
  i {
    width: 12px;
    height: 12px;
    flex: none;
  }
  .k0 {
    background: color-mix(in srgb, var(--alarm) 30%, var(--paper));
  }
  .k1 {
    background: var(--bar);
  }
  .k2 {
    background: color-mix(in srgb, var(--bar) 62%, var(--paper));
  }
  .k3 {
    background: color-mix(in srgb, var(--teal) 30%, var(--paper));
  }
  .k4 {
    background: color-mix(in srgb, var(--teal) 52%, var(--paper));
  }
  .k5 {
    background: color-mix(in srgb, var(--slate) 40%, var(--paper));
  }
  .k6 {
    background: color-mix(in srgb, var(--ochre-bar) 26%, var(--paper));
  }
  .k7 {
    background: color-mix(in srgb, var(--ochre-bar) 50%, var(--paper));
  }
  .k8 {
    background: color-mix(in srgb, var(--plum) 40%, var(--paper));
  }
  .k9 {
    background: var(--rule);
  }
  .found {
    background: var(--ochre-bar);
  }
</style>
