<script lang="ts">
  import { tick } from 'svelte';
  import { get } from 'svelte/store';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { LineWindow } from '$lib/stations/read/lines.svelte';
  import type { Line } from '$lib/service/api/protocol';
  import SpineLine from './SpineLine.svelte';
  import { virtualRows } from './virtual.svelte';

  interface Props {
    lines: LineWindow;
    open: OpenCase;
    focused: number;
    query: string;
    label: string;
    onfocus: (index: number) => void;
    onchoose: (index: number) => void;
    onday: (index: number) => void;
  }
  const { lines, open, focused, query, label, onfocus, onchoose, onday }: Props = $props();

  let scroller = $state<HTMLDivElement>();
  /** Line that takes the keyboard's focus as soon as it is drawn, or -1. */
  let awaited = -1;

  const virtualizer = virtualRows<HTMLDivElement, HTMLDivElement>({
    box: () => scroller,
    count: () => lines.total,
    height: 46
  });

  /** Brings a line into view and gives it the focus of the keyboard. */
  export async function goTo(
    index: number,
    focus: boolean,
    align: 'auto' | 'center' = 'auto'
  ): Promise<void> {
    get(virtualizer).scrollToIndex(index, { align });
    await tick();
    requestAnimationFrame(() => {
      // Heights are known once the lines have been drawn.
      get(virtualizer).scrollToIndex(index, { align });
      requestAnimationFrame(() => {
        if (focus) awaited = index;
        takeFocus();
      });
    });
  }

  /** Keys can be faster than drawing: only the last line asked for takes the focus, once drawn. */
  function takeFocus(): void {
    if (awaited !== focused) return;
    const line = document.getElementById(`line-${awaited}`);
    if (!line) return;
    awaited = -1;
    line.focus({ preventScroll: true });
  }

  $effect(() => {
    void lines.arrived;
    void tick().then(takeFocus);
  });

  export function toTop(): void {
    scroller?.scrollTo({ top: 0 });
  }

  /** The line, asked for again whenever a page of lines has arrived. */
  function lineAt(index: number, _arrived: number): Line | undefined {
    return lines.get(index);
  }

  function measure(element: HTMLDivElement): void {
    get(virtualizer).measureElement(element);
  }
</script>

<div class="scroll" bind:this={scroller} tabindex="-1">
  <div
    class="feed"
    role="feed"
    aria-label={label}
    aria-busy="false"
    style:height="{$virtualizer.getTotalSize()}px"
  >
    {#each $virtualizer.getVirtualItems() as item (item.key)}
      {@const line = lineAt(item.index, lines.arrived)}
      <div
        class="slot"
        data-index={item.index}
        use:measure
        style:transform="translateY({item.start}px)"
      >
        {#if line}
          <SpineLine
            {line}
            {open}
            index={item.index}
            total={lines.total}
            focused={item.index === focused}
            {query}
            onfocus={() => onfocus(item.index)}
            onchoose={() => onchoose(item.index)}
            onday={() => onday(item.index)}
          />
        {:else}
          <div class="waiting" aria-hidden="true"></div>
        {/if}
      </div>
    {/each}
  </div>
</div>

<style>
  .scroll {
    flex: 1;
    min-height: 0;
    overflow: auto;
    container: spine / inline-size;
  }
  .feed {
    position: relative;
    width: 100%;
  }
  .slot {
    position: absolute;
    inset: 0 0 auto 0;
  }
  .waiting {
    height: 46px;
    background: linear-gradient(
      90deg,
      transparent calc(50% - 67px),
      var(--hair) calc(50% - 67px) calc(50% + 67px),
      transparent calc(50% + 67px)
    );
    opacity: 0.4;
  }
</style>
