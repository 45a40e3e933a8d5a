<script lang="ts">
  import { onMount } from 'svelte';
  import { goto } from '$app/navigation';
  import FileDown from '@lucide/svelte/icons/file-down';
  import Moon from '@lucide/svelte/icons/moon';
  import DeleteCase from '$lib/stations/casebook/DeleteCase.svelte';
  import DeletedCases from '$lib/stations/casebook/DeletedCases.svelte';
  import FilePick from '$lib/ui/FilePick.svelte';
  import NewCase from '$lib/stations/casebook/NewCase.svelte';
  import Wordmark from '$lib/ui/Wordmark.svelte';
  import { count, date, errorText, plural } from '$lib/format';
  import { createDemoCase } from '$lib/state/demo';
  import { importInWorker } from '$lib/stations/casebook/import';
  import { look } from '$lib/state/look.svelte';
  import { notices } from '$lib/state/notices';
  import { keepWhenQuiet } from '$lib/state/offline';
  import {
    beginCase,
    deletedCases,
    listCases,
    newCase,
    purgeCase,
    purgeDeleted,
    setDeleted,
    type CaseCard
  } from '$lib/storage/casebook';
  import {
    canReadInPlace,
    groupFolder,
    groupPicked,
    groupsDropped,
    pickPlaces,
    type Dropped
  } from '$lib/files';
  import { bring } from '$lib/state/incoming';

  let cards = $state.raw<CaseCard[] | null>(null);
  let deleted = $state.raw<CaseCard[]>([]);
  /** The case that is about to be deleted. */
  let leaving = $state.raw<CaseCard | null>(null);
  let failure = $state<string | null>(null);
  let query = $state('');
  let creating = $state(false);
  /** How far a case file is read. */
  let importing = $state.raw<{ name: string; fraction: number } | null>(null);
  let over = $state(false);

  const shown = $derived(
    (cards ?? []).filter(({ record }) =>
      `${record.name} ${record.client}`.toLowerCase().includes(query.trim().toLowerCase())
    )
  );

  onMount(async () => {
    try {
      await purgeDeleted(Date.now());
      await load();
    } catch (error) {
      failure = `The casebook could not be opened: ${errorText(error)}. Private windows and full disks are the usual reasons.`;
    }
  });

  onMount(() => keepWhenQuiet());

  async function load(): Promise<void> {
    [cards, deleted] = await Promise.all([listCases(), deletedCases()]);
  }

  /** Begins a case with what was handed over, called after it. */
  async function begin(brought: Dropped): Promise<void> {
    const [first] = [...brought.places, ...brought.groups];
    if (!first) return;
    failure = null;
    try {
      const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
      const record = newCase(first.name.replace(/\.[a-z0-9]{1,5}$/i, ''), '', zone);
      await beginCase(record);
      bring(brought);
      await goto(`/case/${record.id}/sources`);
    } catch (error) {
      failure = errorText(error);
    }
  }

  async function dropped(event: DragEvent): Promise<void> {
    event.preventDefault();
    over = false;
    if (!event.dataTransfer) return;
    try {
      await begin(await groupsDropped(event.dataTransfer, false));
    } catch (error) {
      failure = `What was dropped could not be read: ${errorText(error)}`;
    }
  }

  /** Asks for files or a folder, to be read where they lie. */
  async function pick(folder: boolean): Promise<void> {
    try {
      await begin({ places: await pickPlaces(folder), groups: [] });
    } catch (error) {
      failure = errorText(error);
    }
  }

  async function openDemo(): Promise<void> {
    const present = cards?.find(({ record }) => record.demo);
    failure = null;
    try {
      const record = present?.record ?? (await createDemoCase());
      await goto(`/case/${record.id}/${present && present.live > 0 ? 'read' : 'sources'}`);
    } catch (error) {
      failure = errorText(error);
    }
  }

  async function imported([file]: File[]): Promise<void> {
    if (!file) return;
    failure = null;
    try {
      importing = { name: file.name, fraction: 0 };
      const result = await importInWorker(file, (fraction) => {
        importing = { name: file.name, fraction };
      });
      if (result.ok) await goto(`/case/${result.caseId}/read`);
      else failure = result.reason;
    } catch (error) {
      failure = `${file.name} could not be imported: ${errorText(error)}`;
    } finally {
      importing = null;
    }
  }

  async function remove({ record }: CaseCard): Promise<void> {
    leaving = null;
    await setDeleted(record.id, Date.now());
    await load();
    notices.create({
      title: `${record.name} was deleted. It can be brought back for a day.`,
      duration: 15_000,
      action: { label: 'Undo', onClick: () => void bringBack(record.id) }
    });
  }

  async function bringBack(id: string): Promise<void> {
    await setDeleted(id, null);
    await load();
  }

  async function removeForGood(id: string): Promise<void> {
    await purgeCase(id);
    await load();
  }
</script>

<svelte:head><title>Casebook · Ombudsman</title></svelte:head>

<svelte:window
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={(event) => {
    if (event.relatedTarget === null) over = false;
  }}
  ondrop={dropped}
/>

<header>
  <Wordmark />
  <span class="soft">Recovered conversations, read and produced as records</span>
  <button class="action quiet end" onclick={() => look.toggleMode()}>
    <Moon size={14} aria-hidden="true" />{look.mode === 'paper' ? 'Dark' : 'Light'}
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
    <FilePick
      title="Import a case file"
      testid="case-file"
      accept=".json,.jsonl,application/json"
      onpick={imported}
    />
    {#if cards && cards.length > 0}
      <button class="action quiet" onclick={openDemo}>Open the demo case</button>
    {/if}
    <button class="action main" onclick={() => (creating = true)}>New case</button>
  </div>

  {#if importing}
    <p role="status">
      Importing {importing.name}: {Math.floor(importing.fraction * 100)} %
    </p>
  {/if}
  {#if failure}<p class="failure" role="alert">{failure}</p>{/if}

  {#if cards === null && !failure}
    <p class="soft">Opening the casebook …</p>
  {:else if cards?.length === 0}
    <section class="invites" class:over>
      <FileDown size={40} strokeWidth={1.2} aria-hidden="true" />
      <h2>Drop evidence here to begin</h2>
      <p>
        A message database, a backup’s folder, an archive, a card’s dump, exported chats. It is only
        read, and never leaves this machine.
      </p>
      <p class="choices">
        <FilePick
          title="Choose files"
          testid="evidence"
          class="action main"
          isMultiple
          instead={canReadInPlace() ? () => pick(false) : null}
          onpick={(chosen) => begin({ places: [], groups: groupPicked(chosen) })}
        />
        <FilePick
          title="Choose a folder"
          testid="evidence-folder"
          class="action"
          isFolder
          instead={canReadInPlace() ? () => pick(true) : null}
          onpick={(chosen) => begin({ places: [], groups: groupFolder(chosen) })}
        />
        <button class="action" onclick={openDemo}>Open the demo case</button>
      </p>
      <p class="soft">
        The demo: a boatyard, a ferry, and a deposit that one side says was never paid.
      </p>
    </section>
  {:else if cards}
    <table>
      <thead>
        <tr
          ><th>Case</th><th>Client</th><th>Opened</th><th class="n">Sources</th><th class="n"
            >Live</th
          ><th class="n">Deleted or changed</th><th>Last production</th><th
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
                onclick={() => (leaving = card)}
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
  <DeletedCases {deleted} onback={bringBack} onpurge={removeForGood} />
</main>

{#if leaving}<DeleteCase
    card={leaving}
    onkeep={() => (leaving = null)}
    ondelete={() => leaving && remove(leaving)}
  />{/if}

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
  .invites {
    display: grid;
    justify-items: center;
    gap: 8px;
    text-align: center;
    border: 2px dashed var(--soft);
    background: var(--sheet);
    padding: 64px 30px;
    margin-top: 20px;
    font: 15.5px/1.5 var(--font-text);
    color: var(--ink);
  }
  .invites.over {
    border-color: var(--accent);
    background: var(--accent-wash);
  }
  .invites h2 {
    font-size: 24px;
  }
  .invites p {
    margin: 0;
    max-width: 520px;
  }
  .invites .soft {
    font-size: 13px;
    color: var(--soft);
  }
  .choices {
    display: flex;
    flex-wrap: wrap;
    justify-content: center;
    gap: 10px;
    padding: 8px 0;
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
