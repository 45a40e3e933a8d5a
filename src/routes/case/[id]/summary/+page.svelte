<script lang="ts">
  import { page } from '$app/state';
  import BarsChart from '$lib/stations/summary/BarsChart.svelte';
  import { MARKS } from '$lib/ui/marks';
  import { dayText, withDays } from '$lib/day';
  import { bytes, count, date, errorText, plural } from '$lib/format';
  import { useCase } from '$lib/state/desk.svelte';
  import { latest } from '$lib/state/latest';
  import { METHOD_WORDS } from '$core/produce';
  import { STATES, type RecordState } from '$core/records';
  import { ZonedTime } from '$core/shown';
  import type { ByState, CaseFigures } from '$lib/service/case/summary-room';

  const open = useCase();
  let figures = $state.raw<CaseFigures | null>(null);
  const last = latest();

  $effect(() => {
    void open.version;
    last(open.desk.figures.figures(), (found) => (figures = found)).catch((error: unknown) => {
      open.failure = `The summary could not be counted: ${errorText(error)}`;
    });
  });

  const TONES: Record<RecordState, string> = {
    live: '--bar',
    held: '--slate',
    recovered: '--ochre-bar',
    fragment: '--plum-bar',
    earlier: '--teal'
  };
  const WEEKDAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

  const record = $derived(open.summary!.record);
  const time = $derived(new ZonedTime(record.zone));
  const states = $derived(STATES.filter((state) => (figures?.totals[state] ?? 0) > 0));
  const total = $derived(STATES.reduce((sum, state) => sum + (figures?.totals[state] ?? 0), 0));
  /** Rows of the table of days that are shown before all are asked for. */
  const FEW = 12;
  let allDays = $state(false);

  function sum(counts: ByState): number {
    return STATES.reduce((all, state) => all + counts[state], 0);
  }

  function word(state: RecordState): string {
    return MARKS.find((mark) => mark.state === state)!.word;
  }

  /** A day, or a month written like one. */
  function spanText(label: string): string {
    return label.length === 7 ? dayText(`${label}-01`).replace(/^1 /, '') : dayText(label);
  }

  function day(at: number | null): string {
    return at === null ? 'unknown' : withDays(time.split(at).date);
  }
</script>

<main aria-label="Summary of the case">
  {#if figures === null}
    <p class="soft">Counting the case …</p>
  {:else}
    <header>
      <h1>{record.name}</h1>
      <p class="soft">
        {record.client ? `For ${record.client}. ` : ''}Opened {date(record.opened)}. Times in {record.zone}.
      </p>
      <button class="action quiet" onclick={() => window.print()}>Print</button>
    </header>
    <section class="totals">
      <p><b>{count(total)}</b> messages</p>
      {#each states as state (state)}
        <p class={state}>
          <b>{count(figures.totals[state])}</b>
          <span class="glyph" aria-hidden="true"
            >{MARKS.find((mark) => mark.state === state)!.mark}</span
          >
          {word(state)}
        </p>
      {/each}
      <p><b>{count(figures.gaps.missing)}</b> known to be missing</p>
      <p><b>{count(figures.chosen)}</b> selected</p>
      <p><b>{count(figures.notes)}</b> noted</p>
    </section>

    <section>
      <h2>Messages per {figures.isByMonth ? 'month' : 'day'}</h2>
      <div class="beside">
        <BarsChart
          label="Messages per {figures.isByMonth ? 'month' : 'day'} by state"
          height={310}
          categories={figures.spans.map(({ label }) => spanText(label))}
          series={states.map((state) => ({
            name: word(state),
            tone: TONES[state],
            values: figures!.spans.map(({ counts }) => counts[state])
          }))}
        />
        <div>
          <table>
            <thead>
              <tr
                ><th>{figures.isByMonth ? 'Month' : 'Day'}</th>{#each states as state (state)}<th
                    class="n">{word(state)}</th
                  >{/each}<th class="n">All</th></tr
              >
            </thead>
            <tbody>
              {#each allDays ? figures.spans : figures.spans.slice(-FEW) as { label, counts }, i (i)}
                <tr
                  ><td>{spanText(label)}</td>{#each states as state (state)}<td class="n"
                      >{count(counts[state])}</td
                    >{/each}<td class="n">{count(sum(counts))}</td></tr
                >
              {/each}
            </tbody>
          </table>
          {#if figures.spans.length > FEW}
            <button class="action quiet no-print" onclick={() => (allDays = !allDays)}
              >{allDays
                ? 'Show the last ones'
                : `Show all ${plural(figures.spans.length, figures.isByMonth ? 'month' : 'day')}`}</button
            >
          {/if}
        </div>
      </div>
    </section>

    <section>
      <h2>With whom</h2>
      <table>
        <thead>
          <tr
            ><th>Correspondent</th><th>Address</th>{#each states as state (state)}<th class="n"
                >{word(state)}</th
              >{/each}<th>First</th><th>Last</th></tr
          >
        </thead>
        <tbody>
          {#each figures.correspondents as row (row.id)}
            <tr
              ><td><bdi>{row.name}</bdi></td><td class="soft"
                >{row.detail === row.name ? '' : row.detail}</td
              >{#each states as state (state)}<td class="n">{count(row.counts[state])}</td
                >{/each}<td>{day(row.first)}</td><td>{day(row.last)}</td></tr
            >
          {/each}
        </tbody>
      </table>
      {#if figures.others.correspondents > 0}
        <p class="soft">
          And {plural(figures.others.correspondents, 'other')} with {plural(
            figures.others.lines,
            'line'
          )}.
        </p>
      {/if}
    </section>

    <div class="pair">
      <section>
        <h2>By hour of day</h2>
        <BarsChart
          label="Messages by hour of day"
          categories={figures.hours.map((_, hour) => String(hour))}
          series={[{ name: 'lines', tone: '--bar', values: figures.hours }]}
        />
        <table class="small">
          <tbody>
            {#each [0, 12] as half (half)}
              <tr
                >{#each figures.hours.slice(half, half + 12) as n, i (i)}<td class="n"
                    ><small>{half + i}</small>{count(n)}</td
                  >{/each}</tr
              >
            {/each}
          </tbody>
        </table>
      </section>
      <section>
        <h2>By day of the week</h2>
        <BarsChart
          label="Messages by day of the week"
          categories={WEEKDAYS}
          series={[{ name: 'lines', tone: '--bar', values: figures.weekdays }]}
        />
        <table class="small">
          <tbody>
            <tr
              >{#each figures.weekdays as n, i (i)}<td class="n"
                  ><small>{WEEKDAYS[i]}</small>{count(n)}</td
                >{/each}</tr
            >
          </tbody>
        </table>
      </section>
    </div>

    <section>
      <h2>Sources, and what each gave</h2>
      {#each figures.sources as source (source.id)}
        <h3>{source.name}</h3>
        <p class="soft">
          {bytes(source.bytes)}, {source.pass}{source.sha256 ? ', SHA-256 ' : ''}<span class="mono"
            >{source.sha256}</span
          >
        </p>
        {#if source.stores.length > 0}
          <table>
            <thead>
              <tr
                ><th>Store</th><th>Read by</th>{#each states as state (state)}<th class="n"
                    >{word(state)}</th
                  >{/each}</tr
              >
            </thead>
            <tbody>
              {#each source.stores as store, i (i)}
                <tr
                  ><td class="path">{store.path}</td><td>{store.profile}</td
                  >{#each states as state (state)}<td class="n">{count(store.counts[state])}</td
                    >{/each}</tr
                >
              {/each}
            </tbody>
          </table>
        {/if}
        {#if source.methods.length > 0}
          <p>
            Brought back from
            {source.methods
              .map(([method, n]) => `${METHOD_WORDS[method]} (${plural(n, 'place')})`)
              .join(', ')}.
          </p>
        {/if}
      {:else}<p class="soft">No source was added yet.</p>{/each}
    </section>

    <section>
      <h2>Gaps</h2>
      {#if figures.gaps.count === 0}<p>No message is known to be missing.</p>
      {:else}
        <p>
          {plural(figures.gaps.missing, 'message')} are known to have existed and were not found, in
          {plural(figures.gaps.count, 'place')}. The largest:
        </p>
        <table>
          <thead>
            <tr><th class="n">Missing</th><th>With</th><th>After</th><th>Before</th></tr>
          </thead>
          <tbody>
            {#each figures.gaps.largest as gap, i (i)}
              <tr
                ><td class="n">{count(gap.count)}</td><td>{gap.name ?? 'not known'}</td><td
                  >{day(gap.from)}</td
                ><td>{day(gap.to)}</td></tr
              >
            {/each}
          </tbody>
        </table>
      {/if}
    </section>

    <section>
      <h2>Produced</h2>
      {#if figures.productions.length === 0}
        <p>
          Nothing was produced yet. {plural(figures.chosen, 'record')} are selected.
          <a class="no-print" href="/case/{page.params.id}/produce">To the exhibit list</a>
        </p>
      {:else}
        <table>
          <thead>
            <tr><th>Made</th><th>Formats</th><th class="n">Messages</th><th>SHA-256</th></tr>
          </thead>
          <tbody>
            {#each figures.productions as made (made.id)}
              <tr
                ><td>{time.full(made.made)}</td><td>{made.formats.join(', ')}</td><td class="n"
                  >{count(made.lines)}</td
                ><td class="mono path">{made.sha256}</td></tr
              >
            {/each}
          </tbody>
        </table>
      {/if}
    </section>
  {/if}
</main>

<style>
  main {
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 18px 28px 40px;
    background: var(--sheet);
  }
  header {
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 4px 16px;
  }
  h1 {
    font-size: 23px;
  }
  header .action {
    margin-left: auto;
  }
  h2 {
    font-size: 16px;
    border-bottom: 1px solid var(--rule);
    padding: 20px 0 4px;
    margin-bottom: 8px;
  }
  h3 {
    font-size: 14px;
    margin-top: 10px;
  }
  p {
    margin: 0 0 4px;
    overflow-wrap: anywhere;
  }
  .totals {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 30px;
    margin-top: 10px;
  }
  .totals b {
    font: 600 20px var(--font-text);
  }
  .glyph {
    color: var(--tone);
  }
  .beside {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(min(440px, 100%), 1fr));
    gap: 0 30px;
  }
  .pair {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(min(420px, 100%), 1fr));
    gap: 0 30px;
  }
  table {
    border-collapse: collapse;
    min-width: min(460px, 100%);
    margin: 4px 0 8px;
    font-variant-numeric: tabular-nums;
  }
  section {
    overflow-x: auto;
  }
  th {
    text-align: left;
    color: var(--soft);
    font-weight: 400;
    border-bottom: 1px solid var(--rule);
  }
  td,
  th {
    padding: 3px 22px 3px 0;
    vertical-align: top;
  }
  tr + tr td {
    border-top: 1px solid var(--hair);
  }
  .n {
    text-align: right;
  }
  .path {
    overflow-wrap: anywhere;
  }
  .small td {
    text-align: center;
    padding: 3px 2px;
    font-size: 12px;
  }
  .small small {
    display: block;
    color: var(--soft);
  }
  @media (max-width: 600px) {
    main {
      padding: 12px;
    }
  }
  @media print {
    :global(.frame > :not(main)) {
      display: none !important;
    }
    :global(.frame) {
      height: auto !important;
      overflow: visible !important;
      display: block !important;
    }
    main {
      overflow: visible;
      padding: 0;
    }
    .no-print,
    header .action {
      display: none;
    }
    table,
    h2 {
      break-inside: avoid;
    }
  }
</style>
