<script lang="ts">
  import { onMount } from 'svelte';
  import { goto } from '$app/navigation';
  import Moon from '@lucide/svelte/icons/moon';
  import NewCase from '$lib/parts/NewCase.svelte';
  import Wordmark from '$lib/parts/Wordmark.svelte';
  import { count, date, errorText, plural } from '$lib/format';
  import { createDemoCase } from '$lib/state/demo';
  import { importInWorker } from '$lib/state/import';
  import { look } from '$lib/state/look.svelte';
  import { notices } from '$lib/state/notices';
  import { keepWhenQuiet } from '$lib/state/offline';
  import { listCases, purgeDeleted, setDeleted, type CaseCard } from '$lib/storage/casebook';

  const UNDO_TIME = 10_000;

  let cards = $state.raw<CaseCard[] | null>(null);
  let failure = $state<string | null>(null);
  let query = $state('');
  let creating = $state(false);
  let picker: HTMLInputElement;

  const shown = $derived(
    (cards ?? []).filter(({ record }) =>
      `${record.name} ${record.client}`.toLowerCase().includes(query.trim().toLowerCase())
    )
  );

  onMount(async () => {
    try {
      await purgeDeleted(Date.now() - UNDO_TIME);
      await load();
    } catch (error) {
      failure = `The casebook could not be opened: ${errorText(error)}. Private windows and full disks are the usual reasons.`;
    }
  });

  onMount(() => keepWhenQuiet());

  async function load(): Promise<void> {
    cards = await listCases();
  }

  async function openDemo(): Promise<void> {
    const present = cards?.find(({ record }) => record.demo);
    try {
      const record = present?.record ?? (await createDemoCase());
      await goto(`/case/${record.id}/${present && present.live > 0 ? 'read' : 'sources'}`);
    } catch (error) {
      failure = errorText(error);
    }
  }

  async function imported(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const input = event.currentTarget;
    const file = input.files?.[0];
    if (!file) return;
    failure = null;
    try {
      const result = await importInWorker(file);
      if (result.ok) await goto(`/case/${result.caseId}/read`);
      else failure = result.reason;
    } catch (error) {
      failure = `${file.name} could not be imported: ${errorText(error)}`;
    } finally {
      input.value = '';
    }
  }

  async function remove({ record }: CaseCard): Promise<void> {
    await setDeleted(record.id, Date.now());
    await load();
    notices.create({
      title: `${record.name} was deleted.`,
      duration: UNDO_TIME,
      action: { label: 'Undo', onClick: () => void setDeleted(record.id, null).then(load) }
    });
  }
</script>

<svelte:head><title>Casebook · Ombudsman</title></svelte:head>

<header>
  <Wordmark />
  <span class="soft">Recovered conversations, read and produced as records</span>
  <button class="action quiet end" onclick={() => look.toggleMode()}>
    <Moon size={14} aria-hidden="true" />{look.mode === 'paper' ? 'Lamp' : 'Paper'}
  </button>
</header>

<main>
  <div class="top">
    <h1>Casebook</h1>
    <input
      class="field"
      type="search"
      placeholder="Search cases and clients"
      aria-label="Search cases and clients"
      bind:value={query}
    />
    <button class="action quiet" onclick={() => picker.click()}>Import a case file</button>
    <input
      bind:this={picker}
      type="file"
      accept=".json,application/json"
      hidden
      data-testid="case-file"
      onchange={imported}
    />
    <button class="action quiet" onclick={openDemo}>Open the demo case</button>
    <button class="action main" onclick={() => (creating = true)}>New case</button>
  </div>

  {#if failure}<p class="failure" role="alert">{failure}</p>{/if}

  {#if cards === null && !failure}
    <p class="soft">Opening the casebook …</p>
  {:else if cards?.length === 0}
    <section class="empty">
      <h2>No case yet</h2>
      <p>
        A case holds the sources you were handed, what was found in them, and what you produced. It
        stays in this browser; evidence is only read and never leaves this machine.
      </p>
      <p>
        Begin with <strong>New case</strong>, then add a message database from a phone. To see how
        it reads first, open the demo case: a boatyard, a ferry and a deposit that one side says was
        never paid.
      </p>
    </section>
  {:else if cards}
    <table>
      <thead>
        <tr
          ><th>Case</th><th>Client</th><th>Opened</th><th class="n">Sources</th><th class="n"
            >Live</th
          ><th class="n">Not live</th><th>Last production</th><th
            ><span class="visually-hidden">Actions</span></th
          ></tr
        >
      </thead>
      <tbody>
        {#each shown as card (card.record.id)}
          <tr>
            <td
              ><a href="/case/{card.record.id}/{card.live + card.notLive > 0 ? 'read' : 'sources'}"
                >{card.record.name}</a
              ></td
            >
            <td>{card.record.client || '—'}</td>
            <td>{date(card.record.opened)}</td>
            <td class="n">{card.sources}</td>
            <td class="n">{count(card.live)}</td>
            <td class="n not"
              >{#if card.notLive > 0}<span aria-hidden="true">◆</span>
                {count(card.notLive)}{:else}—{/if}</td
            >
            <td>{card.record.lastProduction ? date(card.record.lastProduction) : 'none yet'}</td>
            <td class="n"
              ><button
                class="action quiet"
                onclick={() => remove(card)}
                aria-label="Delete case {card.record.name}">Delete</button
              ></td
            >
          </tr>
        {:else}
          <tr><td colspan="8" class="soft">No case matches “{query}”.</td></tr>
        {/each}
      </tbody>
    </table>
    <p class="soft foot">{plural(cards.length, 'case')} in this browser.</p>
  {/if}
</main>

<NewCase bind:open={creating} />

<style>
  header {
    display: flex;
    align-items: center;
    gap: 18px;
    height: 48px;
    padding: 0 20px;
    border-bottom: 1px solid var(--rule);
    background: var(--sheet);
  }
  .end {
    margin-left: auto;
  }
  main {
    max-width: 1080px;
    margin: 0 auto;
    padding: 26px 22px;
  }
  .top {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 10px;
    margin-bottom: 16px;
  }
  h1 {
    font-size: 22px;
    margin-right: auto;
  }
  .top .field {
    width: 240px;
    background: var(--sheet);
  }
  table {
    width: 100%;
    border-collapse: collapse;
    background: var(--sheet);
    border: 1px solid var(--rule);
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--soft);
    padding: 7px 14px;
    border-bottom: 1px solid var(--rule);
  }
  td {
    padding: 12px 14px;
    border-bottom: 1px solid var(--hair);
    font-variant-numeric: tabular-nums;
  }
  td a {
    font: 600 15.5px var(--font-text);
    color: var(--ink);
    text-decoration-color: var(--rule);
    text-underline-offset: 3px;
  }
  td a:hover {
    text-decoration-color: var(--accent);
  }
  .n {
    text-align: right;
  }
  .not {
    color: var(--ochre);
  }
  .foot {
    margin-top: 10px;
  }
  .empty {
    border: 1px solid var(--rule);
    background: var(--sheet);
    padding: 30px 36px;
    max-width: 680px;
    font: 15.5px/1.55 var(--font-text);
  }
  .empty h2 {
    font-size: 18px;
    margin-bottom: 6px;
  }
  .empty p {
    margin: 8px 0 0;
  }
  .failure {
    color: var(--alarm);
    border-left: 3px solid var(--alarm);
    padding: 6px 12px;
    background: var(--sheet);
  }
  @media (max-width: 700px) {
    header .soft,
    th:nth-child(2),
    td:nth-child(2),
    th:nth-child(3),
    td:nth-child(3),
    th:nth-child(7),
    td:nth-child(7) {
      display: none;
    }
    td,
    th {
      padding: 8px;
    }
  }
</style>
