<script lang="ts">
  import { untrack } from 'svelte';
  import { page as at } from '$app/state';
  import { bytes, count, errorText } from '$lib/format';
  import FileTotals from '$lib/stations/inside/FileTotals.svelte';
  import PageBytes from '$lib/stations/inside/PageBytes.svelte';
  import PageMap from '$lib/stations/inside/PageMap.svelte';
  import RecordFields from '$lib/stations/inside/RecordFields.svelte';
  import { useCase } from '$lib/state/desk.svelte';
  import { notices } from '$lib/state/notices';
  import type { InsidePage, InsideRecord, InsideView, LineDetail } from '$lib/service/api/protocol';

  const open = useCase();
  const sourceId = at.url.searchParams.get('source') ?? '';
  const path = at.url.searchParams.get('path') ?? '';
  const message = at.url.searchParams.get('line');

  let view = $state.raw<InsideView | null>(null);
  let failure = $state<string | null>(null);
  let detail = $state.raw<LineDetail | null>(null);
  let record = $state.raw<InsideRecord | null>(null);
  let page = $state.raw<InsidePage | null>(null);
  let proof = $state(0);

  const source = $derived(open.summary!.sources.find(({ id }) => id === sourceId) ?? null);
  const recovered = $derived(new Map(view?.recovered ?? []));
  const shown = $derived(record?.page ?? page);
  const title = $derived.by(() => {
    if (!shown) return '';
    const owner = shown.owner ? ` of ${shown.owner}` : '';
    const where = record
      ? `, ${record.method.replace('-', ' ')} at 0x${(record.page.offset + record.start).toString(16).toUpperCase()}, ${count(record.length)} bytes`
      : '';
    return `Page ${shown.number}${owner}${where}`;
  });

  $effect(() => {
    untrack(() => load()).catch((error: unknown) => (failure = errorText(error)));
  });

  async function load(): Promise<void> {
    view = await open.desk.pages.view(sourceId, path);
    if (!view) {
      failure =
        'The file is not kept in this browser, or its key is no longer known. Add the source again, or enter its key, to look inside.';
      return;
    }
    if (message) {
      detail = await open.desk.read.detail(message);
      await showProof(Math.max(0, detail?.message.proofs.findIndex(belongs) ?? 0));
    }
    if (!record) await showPage(view.recovered[0]?.[0] ?? 1);
  }

  function belongs(place: { path: string }): boolean {
    return place.path.startsWith(view!.name);
  }

  async function showProof(wanted: number): Promise<void> {
    proof = wanted;
    record = message ? await open.desk.pages.record(sourceId, path, message, wanted) : null;
    page = null;
    if (!record && message)
      notices.error({ title: 'This evidence lies in another file of the source.' });
  }

  async function showPage(number: number): Promise<void> {
    const found = await open.desk.pages.page(sourceId, path, number);
    if (!found) {
      notices.error({ title: `Page ${number} is not in the file.` });
      return;
    }
    record = null;
    page = found;
  }

  function report(error: unknown): void {
    open.failure = `The page could not be read: ${errorText(error)}`;
  }

  async function copy(): Promise<void> {
    if (!view || !shown) return;
    const text =
      record?.citation ??
      `${shown.file}, SHA-256 ${view.sha256}, page ${shown.number}, offset ${shown.offset}, length ${shown.bytes.length}`;
    await navigator.clipboard.writeText(text);
    notices.success({ title: 'The citation was copied.' });
  }
</script>

<svelte:head><title>Inside {path} · Ombudsman</title></svelte:head>

<header>
  <nav aria-label="Place">
    <a href="/case/{at.params.id}/sources">Sources</a> / {source?.name ?? 'source'} /
  </nav>
  <h1>{path.slice(path.lastIndexOf('/') + 1)}</h1>
  {#if view}
    <span class="soft"
      >{view.encoding}, {count(view.pageSize)}-byte pages, {count(view.kinds.length)} pages, {bytes(
        view.bytes
      )}</span
    >
    <button class="action" onclick={() => void copy().catch(report)}>Copy citation</button>
  {/if}
</header>
{#if failure}
  <main class="empty"><p>{failure}</p></main>
{:else if !view}
  <main class="empty"><p class="soft" role="status">Reading what each page is used for …</p></main>
{:else}
  <main>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls takes the focus) -->
    <section class="left" aria-label="The file" tabindex="0">
      {#each view.told as text, i (i)}<p class="told">{text}</p>{/each}
      <PageMap
        kinds={view.kinds}
        {recovered}
        selected={shown?.number ?? 1}
        onselect={(number) => void showPage(number).catch(report)}
      />
      <FileTotals {view} />
    </section>
    <section class="middle" aria-label="Page">
      {#if shown}
        <PageBytes page={shown} spans={record?.spans ?? []} start={record?.start ?? null} {title} />
      {/if}
    </section>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <section class="right" aria-label="Record" tabindex="0">
      <RecordFields
        {detail}
        {record}
        page={shown}
        {proof}
        onproof={(wanted) => void showProof(wanted).catch(report)}
      />
      {#if detail && !record}
        <button class="action" onclick={() => void showProof(proof).catch(report)}
          >Back to the message</button
        >
      {/if}
    </section>
  </main>
{/if}

<style>
  header {
    display: flex;
    align-items: baseline;
    flex-wrap: wrap;
    gap: 4px 12px;
    padding: 10px 20px;
    border-bottom: 1px solid var(--rule);
    flex: none;
  }
  header .action {
    margin-left: auto;
    align-self: center;
  }
  h1 {
    font-size: 18px;
    margin: 0;
    overflow-wrap: anywhere;
  }
  main {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 372px minmax(0, 1fr) 312px;
  }
  section {
    min-height: 0;
    padding: 14px 20px;
    overflow: auto;
    display: flex;
    flex-direction: column;
  }
  .right {
    display: block;
  }
  .middle {
    background: var(--sheet);
    border-inline: 1px solid var(--rule);
    overflow: hidden;
  }
  .told {
    font-size: 12.5px;
    color: var(--plum);
    margin: 0 0 8px;
  }
  .empty {
    display: block;
    padding: 60px 20px;
    text-align: center;
  }
  @media (max-width: 1200px) {
    main {
      grid-template-columns: 240px minmax(0, 1fr) 232px;
    }
    section {
      padding: 12px 14px;
    }
  }
  @media (max-width: 820px) {
    main {
      display: block;
      overflow: auto;
    }
    .middle {
      height: 60vh;
      border-block: 1px solid var(--rule);
    }
  }
</style>
