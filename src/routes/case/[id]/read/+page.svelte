<script lang="ts">
  import { untrack } from 'svelte';
  import { pushState, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { Tabs } from '@skeletonlabs/skeleton-svelte';
  import CallList from '$lib/stations/read/CallList.svelte';
  import ContactList from '$lib/stations/read/ContactList.svelte';
  import ContactSheet from '$lib/stations/read/ContactSheet.svelte';
  import Correspondents from '$lib/stations/read/Correspondents.svelte';
  import DayRange from '$lib/stations/read/DayRange.svelte';
  import NarrowBy from '$lib/stations/read/NarrowBy.svelte';
  import NarrowedTo from '$lib/stations/read/NarrowedTo.svelte';
  import PeopleList from '$lib/stations/read/PeopleList.svelte';
  import FacetTabs from '$lib/stations/read/FacetTabs.svelte';
  import FirstHint from '$lib/stations/read/FirstHint.svelte';
  import GapList from '$lib/stations/read/GapList.svelte';
  import FileList from '$lib/stations/read/FileList.svelte';
  import HitList from '$lib/stations/read/HitList.svelte';
  import Margin from '$lib/stations/read/Margin.svelte';
  import type River from '$lib/stations/read/River.svelte';
  import Spine from '$lib/stations/read/Spine.svelte';
  import StateChips from '$lib/stations/read/StateChips.svelte';
  import ThreadHead from '$lib/stations/read/ThreadHead.svelte';
  import { errorText } from '$lib/format';
  import { arranged } from '$lib/stations/read/correspondents';
  import { deletionOf } from '$lib/stations/read/deletion';
  import { useCase } from '$lib/state/desk.svelte';
  import { isTyping } from '$lib/state/keys';
  import { latest } from '$lib/state/latest';
  import { LineWindow } from '$lib/stations/read/lines.svelte';
  import { reading } from '$lib/state/reading.svelte';
  import { STATES } from '$core/records';
  import type {
    CorrespondentRow,
    Facet,
    FacetCounts,
    LineDetail,
    River as RiverData
  } from '$lib/service/api/protocol';

  const open = useCase();
  reading.enter(page.params.id!);

  let rows = $state.raw<CorrespondentRow[]>([]);
  let river = $state.raw<RiverData | null>(null);
  /** What draws the days is large: it is fetched once there are lines to be read. */
  let RiverChart = $state<typeof River | null>(null);
  $effect(() => {
    if (lines.total > 0 && !RiverChart)
      void import('$lib/stations/read/River.svelte').then((part) => (RiverChart = part.default));
  });
  let detail = $state.raw<LineDetail | null>(null);
  const lastDetail = latest();
  let focused = $state(0);
  /** Over when the conversation last turned to is shown: keys that name a line wait for it. */
  let turned: Promise<void> = Promise.resolve();
  let lastChosen = $state<number | null>(null);
  let showBytes = $state(false);
  let peopleShown = $state(false);
  let spine = $state<Spine>();
  let turns = 0;
  /** The line that is turned to next takes the focus of the keyboard. */
  let wantsFocus = false;
  const [lastFacets, lastRows, lastRiver] = [latest(), latest(), latest()];
  const lines = new LineWindow(() => open.desk, report);

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
      gaps: none,
      people: none
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
    lastRows(open.desk.read.correspondents(filter), (found) => {
      rows = found;
      if (untrack(() => reading.correspondent) === null && found.length > 0)
        reading.correspondent = first(found);
      const known = found.some((row) => row.id === reading.correspondent);
      if (!known && found.length > 0) reading.correspondent = first(found);
    }).catch(report);
  });

  $effect(() => {
    void open.version;
    const filter = $state.snapshot(reading.lineFilter);
    const { correspondent } = reading;
    if (correspondent === null) return untrack(() => lines.clear());
    turned = untrack(() => turnTo(correspondent, filter)).catch(report);
  });

  /** Another facet is a step that can be gone back. */
  function turnFacet(next: Facet): void {
    replaceState('', { facet: reading.facet });
    reading.facet = next;
    pushState('', { facet: next });
  }

  $effect(() => {
    const { facet: told } = page.state;
    untrack(() => {
      if (told !== undefined) reading.facet = told;
    });
  });

  $effect(() => {
    void open.version;
    const { correspondent } = reading;
    const { query, narrow, states } = reading;
    const filter = { ...narrow, query, states: [...states], from: null, to: null };
    lastRiver(open.desk.read.river(filter, correspondent), (found) => (river = found)).catch(
      report
    );
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
      ? await open.desk.read.indexOf(correspondent, filter, reading.message)
      : -1;
    if (turn !== turns) return;
    await lines.show(correspondent, filter, Math.max(0, kept));
    if (turn !== turns) return;
    focused = Math.max(0, kept);
    const takesFocus = wantsFocus;
    wantsFocus = false;
    if (kept > 0 || takesFocus) await spine?.goTo(focused, takesFocus, 'center');
    else spine?.toTop();
    await look(focused);
  }

  async function look(index: number): Promise<void> {
    if (!lines.get(index)) await lines.need(index);
    const line = lines.get(index);
    if (!line) {
      detail = null;
      return;
    }
    reading.message = line.id;
    reading.save();
    try {
      await lastDetail(open.desk.read.detail(line.id), (found) => (detail = found));
    } catch (error) {
      // Rather nothing than what belongs to another line.
      detail = null;
      throw error;
    }
  }

  async function focusLine(index: number, move: boolean, takeFocus = true): Promise<void> {
    if (index < 0 || index >= lines.total) return;
    if (index === focused && !move) return;
    focused = index;
    await lines.need(index);
    if (move) await spine?.goTo(index, takeFocus, takeFocus ? 'auto' : 'center');
    await look(index);
  }

  async function choose(index: number): Promise<void> {
    const line = lines.get(index);
    if (!line) return;
    lastChosen = index;
    const chosen = !line.chosen;
    lines.mark(new Set([line.id]), chosen);
    try {
      await open.desk.exhibits.choose([line.id], chosen);
    } catch (error) {
      lines.mark(new Set([line.id]), !chosen);
      throw error;
    }
    await settle();
  }

  async function chooseToHere(index: number): Promise<void> {
    if (reading.correspondent === null) return;
    const start = lastChosen ?? index;
    const filter = $state.snapshot(reading.lineFilter);
    await open.desk.exhibits.chooseRange(
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
    const filter = $state.snapshot(reading.lineFilter);
    await open.desk.exhibits.chooseThread(reading.correspondent, filter, chosen);
    await lines.show(reading.correspondent, filter, focused);
    await settle();
  }

  async function chooseDay(index: number): Promise<void> {
    const line = lines.get(index);
    if (!line || reading.correspondent === null) return;
    const filter = $state.snapshot(reading.lineFilter);
    await open.desk.exhibits.chooseDay(reading.correspondent, filter, line.id);
    await lines.show(reading.correspondent, filter, index);
    await settle();
  }

  async function redacted(): Promise<void> {
    if (reading.correspondent === null) return;
    await lines.show(reading.correspondent, $state.snapshot(reading.lineFilter), focused);
    await look(focused);
  }

  const hits = $derived(rows.reduce((sum, row) => sum + row.lines, 0));

  async function chooseHits(): Promise<void> {
    await open.desk.exhibits.chooseHits($state.snapshot(reading.filter));
    const shown = $state.snapshot(reading.lineFilter);
    if (reading.correspondent !== null) await lines.show(reading.correspondent, shown, focused);
    await settle();
  }

  /** The counters follow what was chosen; the lines already show it. */
  async function settle(): Promise<void> {
    open.summary = await open.desk.summary();
    rows = await open.desk.read.correspondents($state.snapshot(reading.filter));
  }

  /** Correspondents as they stand in the list. */
  const order = $derived.by(() => {
    const { rows: own, notices } = arranged(rows, reading.sort, reading.kind);
    return [...own, ...notices];
  });

  function first(found: readonly CorrespondentRow[]): string {
    const { rows: own, notices } = arranged(found, reading.sort, reading.kind);
    return (own[0] ?? notices[0] ?? found[0]!).id;
  }

  function step(by: number): void {
    const at = order.findIndex((row) => row.id === reading.correspondent);
    const next = order[at + by];
    if (next) select(next.id);
  }

  /** Where hits of the search stand in the lines that are shown. */
  let found = $state.raw<Uint32Array>(new Uint32Array(0));
  const lastHits = latest();
  $effect(() => {
    void [open.version, open.hits];
    const { correspondent, query } = reading;
    const filter = $state.snapshot(reading.lineFilter);
    if (correspondent === null || query.trim() === '') {
      found = new Uint32Array(0);
      return;
    }
    lastHits(open.desk.read.hitsIn(correspondent, filter, query), (hits) => {
      found = hits;
      // A search leads to its first hit, unless one is in focus once its lines are shown.
      const lead = (): unknown =>
        hits.length > 0 && !hits.includes(focused) && focusLine(hits[0]!, true, false);
      void turned.then(lead).catch(report);
    }).catch(report);
  });
  const hit = $derived(found.indexOf(focused));

  /** To the next hit; past the last one of a conversation to the next that has some. */
  async function stepHit(by: number): Promise<void> {
    const next = by > 0 ? found.find((at) => at > focused) : found.findLast((at) => at < focused);
    if (next !== undefined) return focusLine(next, true);
    step(by);
  }

  function select(id: string): void {
    reading.correspondent = id;
    reading.message = null;
    peopleShown = false;
    reading.save();
  }

  /** All hits in one list, in the place of a conversation. */
  const listsHits = $derived(
    reading.hitsAs === 'list' && reading.query.trim() !== '' && order.length > 0
  );

  function goToHit(correspondent: string, message: string): void {
    reading.hitsAs = 'context';
    reading.correspondent = correspondent;
    reading.message = message;
    reading.save();
    wantsFocus = true;
  }

  /** Shows a line, whatever the view is narrowed to. */
  function goTo(correspondent: string, message: string): void {
    reading.widen();
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
    n: () => turned.then(() => stepHit(1)),
    N: () => turned.then(() => stepHit(-1)),
    m: () => (reading.margin = !reading.margin),
    p: () => {
      reading.margin = true;
      showBytes = !showBytes;
    }
  };

  function pressed(event: KeyboardEvent): void {
    if (event.defaultPrevented || isTyping(event) || facet !== 'messages' || listsHits) return;
    const state = STATES[Number(event.key) - 1];
    const action = state ? () => reading.toggleState(state) : KEYS[event.key];
    if (!action) return;
    event.preventDefault();
    void Promise.resolve(action()).catch(report);
  }

  $effect(() => {
    void [reading.states, reading.from, reading.to, reading.margin, reading.facet];
    void [reading.narrow, reading.sort, reading.kind];
    reading.save();
  });

  let deletedAt = $state<number | null>(null);
  $effect(() => {
    void deletionOf(page.params.id!).then((at) => (deletedAt = at));
  });

  /** To the conversation with a person; where there is none, nothing happens. */
  function goToPerson(id: string): void {
    if (!rows.some((row) => row.id === id)) return;
    reading.widen();
    reading.facet = 'messages';
    select(id);
  }
</script>

<svelte:window onkeydown={pressed} />

{#if facets === null && all === 0}
  <main class="empty"><p class="soft">Counting what was found …</p></main>
{:else if nothing}
  <main class="empty">
    <h1>Nothing to read yet</h1>
    {#if open.job}
      <p>A source is being examined. Messages appear here as soon as the first are found.</p>
    {:else}
      <p>No messages have been found in this case. Add a source and examine it.</p>
    {/if}
    <a class="action main" href="/case/{page.params.id}/sources">To the sources</a>
  </main>
{:else}
  <Tabs value={facet} onValueChange={({ value }) => turnFacet(value as Facet)} class="facet-room">
    <div class="facets">
      <FacetTabs counts={counted} />
      {#if facet === 'messages'}
        <button
          class="action quiet people-toggle"
          aria-expanded={peopleShown}
          onclick={() => (peopleShown = !peopleShown)}>Correspondents</button
        >
        <span class="end"></span>
        <DayRange
          bind:from={reading.from}
          bind:to={reading.to}
          zone={open.summary!.record.zone}
          {deletedAt}
          last={river?.starts.at(-2) ?? null}
        />
        <NarrowBy {open} />
        {#if !reading.margin}
          <button class="action quiet" onclick={() => (reading.margin = true)}>Show details</button>
        {/if}
      {/if}
    </div>
    <Tabs.Content value={facet} class="facet-room" tabindex={-1}>
      {#if facet === 'calls'}
        <CallList {open} />
      {:else if facet === 'contacts'}
        <ContactList {open} query={reading.query} />
      {:else if facet === 'people'}
        <PeopleList {open} query={reading.query} ongo={(id) => goToPerson(id)} />
      {:else if facet === 'media'}
        <ContactSheet {open} query={reading.query} />
      {:else if facet === 'gaps'}
        <GapList {open} ongo={goTo} />
      {:else if facet !== 'messages'}
        <FileList {open} {facet} query={reading.query} />
      {:else}
        <div class="river">
          <StateChips {totals} />
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
        </div>
        {#if reading.query.trim() !== '' || reading.isNarrow}
          <NarrowedTo
            {open}
            lines={hits}
            correspondents={rows.length}
            hits={found.length}
            {hit}
            isList={listsHits}
            name={current?.name ?? ''}
            onstep={(by) => void stepHit(by).catch(report)}
            onchoose={() => void chooseHits().catch(report)}
          />
        {/if}
        <div
          class="body"
          class:with-margin={reading.margin && !listsHits}
          class:people-shown={peopleShown}
        >
          <Correspondents {rows} selected={reading.correspondent} onselect={select} />
          <main>
            {#if listsHits}
              <HitList {open} rows={order} filter={reading.filter} ongo={goToHit} />
            {:else if current}
              <FirstHint onmore={() => open.explain()} />
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
                <button class="action" onclick={() => reading.widen()}>Show everything</button>
              </div>
            {/if}
          </main>
          {#if reading.margin && !listsHits}<Margin
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
    </Tabs.Content>
  </Tabs>
{/if}

<style>
  :global(.facet-room) {
    display: flex;
    flex-direction: column;
    flex: 1;
    gap: 0;
    min-height: 0;
    min-width: 0;
  }
  .river-room {
    height: 92px;
    border-bottom: 1px solid var(--rule);
    flex: none;
  }
  @media (max-width: 600px) {
    .river :global(.chips) {
      position: static;
      justify-content: flex-end;
      padding: 4px 12px 0;
    }
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
  .end {
    margin-left: auto;
  }
  .facets :global(.action) {
    padding: 2px 9px;
  }
  .river {
    position: relative;
    flex: none;
  }
  .river :global(.chips) {
    position: absolute;
    top: 4px;
    right: 20px;
    z-index: 3;
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
