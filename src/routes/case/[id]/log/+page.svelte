<script lang="ts">
  import { withDays } from '$lib/day';
  import { plural, count, errorText, shortHash } from '$lib/format';
  import { detailText } from '$lib/stations/log/log-words';
  import { useCase } from '$lib/state/desk.svelte';
  import { saveBlob } from '$lib/state/save';
  import type { CustodyView } from '$lib/service/api/protocol';
  import { ZonedTime } from '$core/shown';

  const open = useCase();
  let view = $state.raw<CustodyView | null>(null);
  let query = $state('');
  const time = $derived(new ZonedTime(open.summary!.record.zone));
  const rows = $derived(
    (view?.entries ?? [])
      .map((entry) => ({ entry, text: detailText(entry), at: time.split(Date.parse(entry.at)) }))
      .filter(({ entry, text }) =>
        `${entry.what} ${text}`.toLowerCase().includes(query.trim().toLowerCase())
      )
      .reverse()
  );

  $effect(() => {
    void open.version;
    open.desk.log
      .view()
      .then((found) => (view = found))
      .catch(report);
  });

  function report(error: unknown): void {
    open.failure = `The log could not be read: ${errorText(error)}`;
  }

  async function save(): Promise<void> {
    try {
      const name = open.summary!.record.name.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase();
      saveBlob(await open.desk.log.save(), `${name}.custody.jsonl`);
      view = await open.desk.log.view();
    } catch (error) {
      report(error);
    }
  }
</script>

<main aria-label="Custody log">
  <div class="top">
    <h1>Custody log</h1>
    {#if view}
      {#if view.broken}
        <p class="state broken" role="alert">
          The chain is broken at entry {count(view.broken.line)}: the log was changed there after it
          was written.
        </p>
      {:else}
        <p class="state" role="status">
          <b>✓ The chain holds.</b>
          {plural(view.entries.length, 'entry', 'entries')}, each with the checksum of the one
          before.
        </p>
      {/if}
    {/if}
    <label class="find"
      ><span class="visually-hidden">Search the log</span><input
        class="field"
        type="search"
        placeholder="Search the log"
        bind:value={query}
      /></label
    >
    <button class="action quiet" onclick={() => window.print()}>Print</button>
    <button class="action" onclick={() => void save()}>Save the log</button>
  </div>
  {#if view === null}
    <p class="soft" role="status">Reading the log …</p>
  {:else}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="box" tabindex="0" role="region" aria-label="Entries, newest first">
      <table>
        <thead>
          <tr>
            <th class="n">No.</th><th>When</th><th>Action</th><th>Details</th><th class="mono"
              >Hash</th
            >
          </tr>
        </thead>
        <tbody>
          {#each rows as { entry, text, at }, i (i)}
            <tr class:broken={view.broken?.line === entry.n}>
              <td class="n">{count(entry.n)}</td>
              <td class="when">{withDays(at.date)} {at.time} <small>{at.offset}</small></td>
              <td class="what">{entry.what}</td>
              <td class="detail">{text}</td>
              <td class="mono soft hash" title={entry.hash}>{shortHash(entry.hash)}</td>
            </tr>
          {:else}
            <tr><td colspan="5" class="soft">No entry matches.</td></tr>
          {/each}
        </tbody>
      </table>
    </div>
    <p class="soft note">
      The file that is saved holds one entry a line. It is checked here, in a production, and by the
      command, all in the same way: each entry names the hash of the one before.
    </p>
  {/if}
</main>

<style>
  main {
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
    padding: 14px 20px;
    background: var(--sheet);
    gap: 10px;
  }
  .top {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    align-items: center;
  }
  h1 {
    font-size: 19px;
  }
  .state {
    margin: 0;
    color: var(--soft);
  }
  .state b {
    color: var(--accent);
    font-weight: 600;
  }
  .broken {
    color: var(--alarm);
  }
  .find {
    margin-left: auto;
  }
  .box {
    flex: 1;
    min-height: 0;
    overflow: auto;
    border-top: 1px solid var(--rule);
  }
  table {
    border-collapse: collapse;
    width: 100%;
    font-size: 13px;
  }
  th {
    position: sticky;
    top: 0;
    background: var(--sheet);
    text-align: left;
    font-weight: 400;
    color: var(--soft);
    padding: 6px 14px 5px 0;
    border-bottom: 1px solid var(--rule);
  }
  td {
    vertical-align: top;
    padding: 6px 14px 5px 0;
    border-bottom: 1px solid var(--hair);
  }
  .n {
    text-align: right;
    width: 44px;
    font-variant-numeric: tabular-nums;
  }
  .when {
    white-space: nowrap;
    font-variant-numeric: tabular-nums;
  }
  .when small {
    color: var(--soft);
  }
  .what {
    font-weight: 600;
    white-space: nowrap;
  }
  .hash {
    white-space: nowrap;
  }
  .detail {
    overflow-wrap: anywhere;
  }
  .note {
    margin: 0;
    font-size: 12px;
  }
  @media (max-width: 700px) {
    th:last-child,
    td:last-child {
      display: none;
    }
    .when,
    .what {
      white-space: normal;
    }
  }
  @media print {
    .find,
    button {
      display: none;
    }
    .box {
      overflow: visible;
    }
  }
</style>
