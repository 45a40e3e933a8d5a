<script lang="ts">
  import { untrack } from 'svelte';
  import { page } from '$app/state';
  import CallList from '$lib/parts/CallList.svelte';
  import ContactList from '$lib/parts/ContactList.svelte';
  import ContactSheet from '$lib/parts/ContactSheet.svelte';
  import Correspondents from '$lib/parts/Correspondents.svelte';
  import DayRange from '$lib/parts/DayRange.svelte';
  import FacetTabs from '$lib/parts/FacetTabs.svelte';
  import GapList from '$lib/parts/GapList.svelte';
  import FileList from '$lib/parts/FileList.svelte';
  import Margin from '$lib/parts/Margin.svelte';
  import type River from '$lib/parts/River.svelte';
  import Spine from '$lib/parts/Spine.svelte';
  import StateChips from '$lib/parts/StateChips.svelte';
  import ThreadHead from '$lib/parts/ThreadHead.svelte';
  import { errorText, plural } from '$lib/format';
  import { useCase } from '$lib/state/desk.svelte';
  import { isTyping } from '$lib/state/keys';
  import { latest } from '$lib/state/latest';
  import { LineWindow } from '$lib/state/lines.svelte';
  import { reading } from '$lib/state/reading.svelte';
  import { STATES } from '$core/records';
  import type {
    CorrespondentRow,
    FacetCounts,
    LineDetail,
    River as RiverData
  } from '$lib/worker/protocol';

  const open = useCase();
  reading.enter(page.params.id!);

  let rows = $state.raw<CorrespondentRow[]>([]);
  let river = $state.raw<RiverData | null>(null);
  /** What draws the days is large: it is fetched once there are lines to be read. */
  let RiverChart = $state<typeof River | null>(null);
  $effect(() => {
    if (lines.total > 0 && !RiverChart)
      void import('$lib/parts/River.svelte').then((part) => (RiverChart = part.default));
  });
  let detail = $state.raw<LineDetail | null>(null);
  let focused = $state(0);
  /** Over when the conversation last turned to is shown: keys that name a line wait for it. */
  let turned: Promise<void> = Promise.resolve();
  let lastChosen = $state<number | null>(null);
  let showBytes = $state(false);
  let peopleShown = $state(false);
  let spine = $state<Spine>();
  let turns = 0;
  const [lastFacets, lastRows, lastRiver] = [latest(), latest(), latest()];
  const lines = new LineWindow(() => open.desk);

  const totals = $derived(open.summary!.totals);
  let facets = $state.raw<FacetCounts | null>(null);
  const nothing = $derived(
    facets !== null && Object.values(facets).every(({ live, notLive }) => live + notLive === 0)
  );
  const facet = $derived(reading.facet);
  const all = $derived(STATES.reduce((sum, state) => sum + totals[state], 0));
  /** Until the facets are counted the messages are known already, and can be read. */
  const counted = $derived(facets ?? firstCounts(totals.live, all - totals.live));

  function firstCounts(live: number, notLive: number): FacetCounts {
    const none = { live: 0, notLive: 0 };
    const rest = {
      calls: none,
      contacts: none,
      media: none,
      documents: none,
      files: none,
      gaps: none
    };
    return { messages: { live, notLive }, ...rest };
  }

  $effect(() => {
    void open.version;
    lastFacets(open.desk.facets(), (found) => {
      facets = found;
      const { live, notLive } = found.messages;
      // A case of calls or pictures alone opens with what it has.
      if (live + notLive === 0 && reading.facet === 'messages') {
        const filled = Object.entries(found).find(([, n]) => n.live + n.notLive > 0);
        if (filled) reading.facet = filled[0] as typeof reading.facet;
      }
    }).catch(report);
  });
  const current = $derived(rows.find((row) => row.id === reading.correspondent) ?? null);

  function report(error: unknown): void {
    open.failure = `The lines could not be read: ${errorText(error)}`;
  }

  $effect(() => {
    void open.version;
    void open.hits;
    const filter = $state.snapshot(reading.filter);
    lastRows(open.desk.correspondents(filter), (found) => {
      rows = found;
      const known = found.some((row) => row.id === reading.correspondent);
      if (!known && found.length > 0) reading.correspondent = found[0]!.id;
    }).catch(report);
  });

  $effect(() => {
    void open.version;
    const filter = $state.snapshot(reading.filter);
    const { correspondent } = reading;
    if (correspondent === null) return untrack(() => lines.clear());
    turned = untrack(() => turnTo(correspondent, filter)).catch(report);
  });

  $effect(() => {
    void open.version;
    const { correspondent } = reading;
    const filter = { query: reading.query, states: [...STATES], from: null, to: null };
    lastRiver(open.desk.river(filter, correspondent), (found) => (river = found)).catch(report);
  });

  // Coming back from another facet the spine is new, and begins at its top.
  $effect(() => {
    const fresh = spine;
    if (!fresh || facet !== 'messages') return;
    untrack(() => {
      if (lines.total > 0 && focused > 0) fresh.goTo(focused, false, 'center').catch(report);
    });
  });

  /** Shows a conversation at the line that was in focus, or at its first one that is not live. */
  async function turnTo(correspondent: string, filter: typeof reading.filter): Promise<void> {
    lastChosen = null;
    const turn = ++turns;
    const kept = reading.message
      ? await open.desk.lineIndex(correspondent, filter, reading.message)
      : -1;
    if (turn !== turns) return;
    await lines.show(correspondent, filter, Math.max(0, kept));
    if (turn !== turns) return;
    focused = Math.max(0, kept);
    if (kept > 0) await spine?.goTo(kept, false, 'center');
    else spine?.toTop();
    await look(focused);
  }

  async function look(index: number): Promise<void> {
    const line = lines.get(index);
    if (!line) {
      detail = null;
      return;
    }
    reading.message = line.id;
    reading.save();
    detail = await open.desk.detail(line.id);
  }

  async function focusLine(index: number, move: boolean): Promise<void> {
    if (index < 0 || index >= lines.total) return;
    if (index === focused && !move) return;
    focused = index;
    if (move) await spine?.goTo(index, true);
    await look(index);
  }

  async function choose(index: number): Promise<void> {
    const line = lines.get(index);
    if (!line) return;
    lastChosen = index;
    lines.mark(new Set([line.id]), !line.chosen);
    await open.desk.choose([line.id], !line.chosen);
    await settle();
  }

  async function chooseToHere(index: number): Promise<void> {
    if (reading.correspondent === null) return;
    const start = lastChosen ?? index;
    const filter = $state.snapshot(reading.filter);
    await open.desk.chooseRange(
      reading.correspondent,
      filter,
      Math.min(start, index),
      Math.max(start, index) + 1
    );
    await lines.show(reading.correspondent, filter, index);
    lastChosen = index;
    await settle();
  }

  async function chooseThread(chosen: boolean): Promise<void> {
    if (reading.correspondent === null) return;
    const filter = $state.snapshot(reading.filter);
    await open.desk.chooseThread(reading.correspondent, filter, chosen);
    await lines.show(reading.correspondent, filter, focused);
    await settle();
  }

  async function chooseDay(index: number): Promise<void> {
    const line = lines.get(index);
    if (!line || reading.correspondent === null) return;
    const filter = $state.snapshot(reading.filter);
    await open.desk.chooseDay(reading.correspondent, filter, line.id);
    await lines.show(reading.correspondent, filter, index);
    await settle();
  }

  async function redacted(): Promise<void> {
    if (reading.correspondent === null) return;
    await lines.show(reading.correspondent, $state.snapshot(reading.filter), focused);
    await look(focused);
  }

  const hits = $derived(rows.reduce((sum, row) => sum + row.lines, 0));

  async function chooseHits(): Promise<void> {
    const filter = $state.snapshot(reading.filter);
    await open.desk.chooseHits(filter);
    if (reading.correspondent !== null) await lines.show(reading.correspondent, filter, focused);
    await settle();
  }

  /** The counters follow what was chosen; the lines already show it. */
  async function settle(): Promise<void> {
    open.summary = await open.desk.summary();
    rows = await open.desk.correspondents($state.snapshot(reading.filter));
  }

  async function step(by: number): Promise<void> {
    const at = rows.findIndex((row) => row.id === reading.correspondent);
    const next = rows[at + by];
    if (next) select(next.id);
  }

  function select(id: string): void {
    reading.correspondent = id;
    reading.message = null;
    peopleShown = false;
    reading.save();
  }

  /** Shows a line, whatever the view is narrowed to. */
  function goTo(correspondent: string, message: string): void {
    reading.query = '';
    reading.states = [...STATES];
    reading.from = null;
    reading.to = null;
    reading.correspondent = correspondent;
    reading.message = message;
    reading.facet = 'messages';
    reading.save();
  }

  const KEYS: Record<string, () => unknown> = {
    j: () => turned.then(() => focusLine(focused + 1, true)),
    k: () => turned.then(() => focusLine(focused - 1, true)),
    '[': () => step(-1),
    ']': () => step(1),
    x: () => turned.then(() => choose(focused)),
    X: () => turned.then(() => chooseToHere(focused)),
    m: () => (reading.margin = !reading.margin),
    p: () => {
      reading.margin = true;
      showBytes = !showBytes;
    }
  };

  function pressed(event: KeyboardEvent): void {
    if (event.defaultPrevented || isTyping(event) || facet !== 'messages') return;
    const state = STATES[Number(event.key) - 1];
    const action = state ? () => reading.toggleState(state) : KEYS[event.key];
    if (!action) return;
    event.preventDefault();
    void Promise.resolve(action()).catch(report);
  }

  $effect(() => {
    void [reading.states, reading.from, reading.to, reading.margin, reading.facet];
    reading.save();
  });
</script>

<svelte:window onkeydown={pressed} />

{#if facets === null && all === 0}
  <main class="empty"><p class="soft">Counting what was found …</p></main>
{:else if nothing}
  <main class="empty">
    <h1>Nothing to read yet</h1>
    {#if open.job}
      <p>A pass is running. Lines appear here as soon as the first are found.</p>
    {:else}
      <p>No pass has found messages in this case. Add a source and begin a pass.</p>
    {/if}
    <a class="action main" href="/case/{page.params.id}/sources">To the sources</a>
  </main>
{:else}
  <div class="facets">
    <FacetTabs counts={counted} {facet} onfacet={(wanted) => (reading.facet = wanted)} />
    {#if facet === 'messages'}
      <button
        class="action quiet people-toggle"
        aria-expanded={peopleShown}
        onclick={() => (peopleShown = !peopleShown)}>Correspondents</button
      >
      <DayRange bind:from={reading.from} bind:to={reading.to} zone={open.summary!.record.zone} />
      {#if reading.query.trim() !== '' && hits > 0}
        <button class="action quiet" onclick={() => void chooseHits().catch(report)}
          >Choose all {plural(hits, 'hit')}</button
        >
      {/if}
      {#if !reading.margin}
        <button class="action quiet" onclick={() => (reading.margin = true)}>Show margin</button>
      {/if}
      <StateChips {totals} />
    {/if}
  </div>
  {#if facet === 'calls'}
    <CallList {open} />
  {:else if facet === 'contacts'}
    <ContactList {open} query={reading.query} />
  {:else if facet === 'media'}
    <ContactSheet {open} query={reading.query} />
  {:else if facet === 'gaps'}
    <GapList {open} ongo={goTo} />
  {:else if facet !== 'messages'}
    <FileList {open} {facet} query={reading.query} />
  {:else}
    {#if RiverChart}
      <RiverChart
        {river}
        from={reading.from}
        to={reading.to}
        onrange={(from, to) => {
          reading.from = from;
          reading.to = to;
        }}
      />
    {:else}
      <div class="river-room"></div>
    {/if}
    <div class="body" class:with-margin={reading.margin} class:people-shown={peopleShown}>
      <Correspondents {rows} selected={reading.correspondent} onselect={select} />
      <main>
        {#if current}
          <ThreadHead row={current} total={lines.total} {open} onchoose={chooseThread} />
          <div class="held" class:turning={lines.correspondent !== current.id}>
            <Spine
              bind:this={spine}
              {lines}
              {open}
              {focused}
              query={reading.query}
              label="Lines with {current.name}"
              onfocus={(index) => void focusLine(index, false).catch(report)}
              onchoose={(index) => void choose(index).catch(report)}
              onday={(index) => void chooseDay(index).catch(report)}
            />
          </div>
        {:else}
          <div class="nothing">
            <p>Nothing matches what the view is narrowed to.</p>
            <button
              class="action"
              onclick={() => {
                reading.query = '';
                reading.states = [...STATES];
                reading.from = null;
                reading.to = null;
              }}>Show everything</button
            >
          </div>
        {/if}
      </main>
      {#if reading.margin}<Margin
          {detail}
          {showBytes}
          {open}
          index={focused}
          onredact={() => void redacted().catch(report)}
          ontoggle={() => (showBytes = !showBytes)}
          onhide={() => (reading.margin = false)}
        />{/if}
    </div>
  {/if}
{/if}

<style>
  .river-room {
    height: 92px;
    border-bottom: 1px solid var(--rule);
    flex: none;
  }
  @media (max-width: 600px) {
    .river-room {
      height: 60px;
    }
  }
  .held {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
  }
  /* Lines of one conversation are never shown under the name of another. */
  .turning {
    visibility: hidden;
  }
  .facets {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 20px;
    padding: 6px 20px;
    border-bottom: 1px solid var(--rule);
    flex: none;
  }
  .facets :global(.chips) {
    margin-left: auto;
  }
  .people-toggle {
    display: none;
  }
  .body {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 262px minmax(0, 1fr);
  }
  .body.with-margin {
    grid-template-columns: 262px minmax(0, 1fr) 276px;
  }
  main {
    min-height: 0;
    min-width: 0;
    display: flex;
    flex-direction: column;
    background: var(--sheet);
  }
  .empty,
  .nothing {
    flex: 1;
    padding: 60px 20px;
    display: grid;
    gap: 10px;
    align-content: start;
    justify-items: center;
    font: 15.5px var(--font-text);
  }
  .empty .action {
    text-decoration: none;
  }
  @media (max-width: 1100px) {
    .body,
    .body.with-margin {
      grid-template-columns: 214px minmax(0, 1fr);
    }
    .body.with-margin {
      grid-template-columns: 196px minmax(0, 1fr) 262px;
    }
  }
  @media (max-width: 820px) {
    .body,
    .body.with-margin {
      grid-template-columns: minmax(0, 1fr);
      grid-template-rows: minmax(0, 1fr) auto;
    }
    .body :global(.people) {
      display: none;
    }
    .body.people-shown :global(.people) {
      display: block;
      grid-row: 1;
      grid-column: 1;
      z-index: 2;
      background: var(--paper);
    }
    .body.people-shown main {
      display: none;
    }
    .body :global(aside) {
      max-height: 34vh;
      border-left: 0;
      border-top: 1px solid var(--rule);
    }
    .people-toggle {
      display: inline-flex;
    }
    .facets {
      padding: 6px 12px;
    }
  }
</style>
