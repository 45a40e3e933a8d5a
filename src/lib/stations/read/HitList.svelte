<script lang="ts">
  import { untrack } from 'svelte';
  import { TZDate } from '@date-fns/tz';
  import { format } from 'date-fns';
  import { get } from 'svelte/store';
  import { errorText, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { besideOf } from '$lib/stations/read/hit-place';
  import { HitPlaces } from '$lib/stations/read/hit-places';
  import { isTyping } from '$lib/state/keys';
  import type { CorrespondentRow, Line, ReadFilter } from '$lib/service/api/protocol';
  import Highlight from './Highlight.svelte';
  import { markOf } from '../../ui/marks';
  import { virtualRows } from './virtual.svelte';

  interface Props {
    open: OpenCase;
    /** Correspondents with hits, in the order of the list. */
    rows: readonly CorrespondentRow[];
    filter: ReadFilter;
    ongo: (correspondent: string, message: string) => void;
  }
  const { open, rows, filter, ongo }: Props = $props();

  const PAGE = 80;
  const HEIGHT = 34;
  /** Letters before the hit that are shown with it. */
  const LEAD = 30;

  let box = $state<HTMLDivElement>();
  let arrived = $state(0);
  let focused = $state(1);
  let pages = new Map<string, Line[] | null>();

  const places = $derived(new HitPlaces(rows));
  const virtual = virtualRows<HTMLDivElement, HTMLDivElement>({
    box: () => box,
    count: () => places.total,
    height: HEIGHT
  });

  $effect(() => {
    void [open.version, places, filter];
    pages = new Map();
    untrack(() => arrived++);
  });

  function lineAt({ id }: CorrespondentRow, at: number, _arrived: number): Line | undefined {
    const page = Math.floor(at / PAGE);
    const key = `${id} ${page}`;
    if (!pages.has(key)) void fetchPage(id, page, key);
    return pages.get(key)?.[at - page * PAGE];
  }

  async function fetchPage(id: string, page: number, key: string): Promise<void> {
    const own = pages;
    own.set(key, null);
    try {
      const asked = $state.snapshot(filter);
      const { lines } = await open.desk.read.lines(id, asked, page * PAGE, (page + 1) * PAGE);
      own.set(key, lines);
      arrived++;
    } catch (error) {
      own.delete(key);
      open.failure = `The hits could not be read: ${errorText(error)}`;
    }
  }

  /** The words around the hit: a long message is shown from shortly before it. */
  function around({ body, subject }: Line): string {
    const text = [subject, body].filter(Boolean).join(' · ').replace(/\s+/g, ' ');
    const at = text.toLowerCase().indexOf(filter.query.trim().toLowerCase());
    return at <= LEAD ? text : `… ${text.slice(text.indexOf(' ', at - LEAD) + 1)}`;
  }

  function when(at: number | null): string {
    if (at === null) return 'time unknown';
    return format(new TZDate(at, open.summary!.record.zone), 'd MMM yyyy, HH:mm');
  }

  function go(place: number): void {
    const found = places.at(place);
    const line = found?.kind === 'hit' ? lineAt(found.row, found.at, arrived) : undefined;
    if (found && line) ongo(found.row.id, line.id);
  }

  function pressed(event: KeyboardEvent): void {
    if (event.defaultPrevented || isTyping(event)) return;
    const by = { j: 1, ArrowDown: 1, k: -1, ArrowUp: -1 }[event.key] as 1 | -1 | undefined;
    const isEnter = event.key === 'Enter' && box?.contains(document.activeElement);
    if (by === undefined && !isEnter) return;
    event.preventDefault();
    if (by === undefined) return go(focused);
    focused = places.step(focused, by);
    get(virtual).scrollToIndex(focused);
    box?.focus();
  }
</script>

<svelte:window onkeydown={pressed} />

<div
  class="hits"
  bind:this={box}
  tabindex="0"
  role="listbox"
  aria-label="All hits"
  aria-activedescendant="hit-{focused}"
>
  <div class="inner" style:height="{$virtual.getTotalSize()}px">
    {#each $virtual.getVirtualItems() as item (item.index)}
      {@const place = places.at(item.index)}
      {#if place?.kind === 'heading'}
        <div class="row heading" role="presentation" style:transform="translateY({item.start}px)">
          <b><bdi>{place.row.name}</bdi></b>
          <span class="soft">{plural(place.row.lines, 'hit')}</span>
        </div>
      {:else if place}
        {@const line = lineAt(place.row, place.at, arrived)}
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <div
          class="row hit {line?.state ?? ''}"
          class:focused={focused === item.index}
          id="hit-{item.index}"
          role="option"
          tabindex="-1"
          aria-selected={focused === item.index}
          aria-setsize={places.total - rows.length}
          style:transform="translateY({item.start}px)"
          onclick={() => {
            focused = item.index;
            go(item.index);
          }}
        >
          {#if line}
            {@const beside = besideOf(line, filter.query)}
            <span class="mono soft">{line.number || ''}</span>
            <span class="glyph" title={line.state}>{markOf(line.state)}</span>
            <span class="soft when">{when(line.at)}</span>
            <span class="who"><bdi>{line.sender}</bdi></span>
            <span class="words" dir="auto"
              >{#if beside}<em class="beside"
                  >{beside.where}{beside.text === '' ? '' : `: ${beside.text}`}</em
                >
              {/if}<Highlight
                text={around(line)}
                query={filter.query}
                lost={line.state === 'fragment'}
              /></span
            >
          {/if}
        </div>
      {/if}
    {/each}
  </div>
</div>

<style>
  .beside {
    font: italic 12px var(--font-plain);
    color: var(--accent);
    margin-right: 8px;
  }
  .hits {
    flex: 1;
    min-height: 0;
    overflow: auto;
  }
  .hits:focus-visible {
    outline-offset: -2px;
  }
  .inner {
    position: relative;
  }
  .row {
    position: absolute;
    inset: 0 0 auto;
    height: 34px;
    padding: 0 22px;
    display: grid;
    align-items: center;
  }
  .heading {
    grid-template-columns: auto 1fr;
    gap: 12px;
    align-items: end;
    padding-bottom: 4px;
    border-bottom: 1px solid var(--rule);
  }
  .heading b {
    font: 600 15px var(--font-text);
  }
  .hit {
    grid-template-columns: 52px 16px 132px minmax(80px, 150px) minmax(0, 1fr);
    gap: 10px;
    border-bottom: 1px solid var(--hair);
    cursor: pointer;
  }
  .hit:hover {
    background: var(--paper);
  }
  .hit.focused {
    box-shadow: inset 3px 0 var(--accent);
    background: var(--accent-wash);
  }
  .hit > span {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .mono {
    text-align: right;
  }
  .glyph {
    color: var(--tone);
  }
  .when {
    font-variant-numeric: tabular-nums;
  }
  .words {
    font: 15px var(--font-text);
  }
  @media (max-width: 820px) {
    .hit {
      grid-template-columns: 16px minmax(0, 1fr);
    }
    .hit > :is(.mono, .when, .who) {
      display: none;
    }
  }
</style>
