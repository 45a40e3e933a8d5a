<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import type { ExhibitChange } from '$core/exhibits';
  import {
    settingsProblem,
    settingsSchema,
    type Redaction,
    type Settings,
    type UndecidedFile
  } from '$core/produce';
  import { bytes, count, errorText, plural } from '$lib/format';
  import ExhibitList from '$lib/stations/produce/ExhibitList.svelte';
  import PackageCheck from '$lib/stations/produce/PackageCheck.svelte';
  import PagePreview from '$lib/ui/PagePreview.svelte';
  import PresetPicker from '$lib/stations/produce/PresetPicker.svelte';
  import ProduceSettings from '$lib/stations/produce/ProduceSettings.svelte';
  import ProductionHistory from '$lib/stations/produce/ProductionHistory.svelte';
  import Redactions from '$lib/stations/produce/Redactions.svelte';
  import UndecidedFiles from '$lib/stations/produce/UndecidedFiles.svelte';
  import { useCase } from '$lib/state/desk.svelte';
  import { notices } from '$lib/state/notices';
  import { PRESETS } from '$lib/stations/produce/presets';
  import { reading } from '$lib/state/reading.svelte';
  import { saveBlob } from '$lib/state/save';
  import { STATES } from '$core/records';
  import type {
    ExhibitRow,
    ExhibitView,
    PagePreview as Pages,
    Produced,
    ProductionResult,
    RedactionView
  } from '$lib/service/api/protocol';

  const open = useCase();

  const NOTHING: ExhibitView = {
    lists: [],
    current: '',
    order: 'hand',
    rows: [],
    lines: 0,
    files: 0,
    bytes: 0
  };
  let view = $state.raw<ExhibitView | null>(null);
  let redactions = $state.raw<RedactionView>({ rows: [], reasons: [] });
  let selected = $state<string | null>(null);
  let preset = $state(PRESETS[0]!.id);
  let settings = $state<Settings>(structuredClone(PRESETS[0]!.settings));
  let zone = $state(open.summary!.record.zone);
  let pages = $state.raw<Pages | null>(null);
  let shown = $state(1);
  let working = $state(false);
  let result = $state.raw<(ProductionResult & { url: string | null }) | null>(null);
  /** Counts up when exhibits or redactions changed here. */
  let changes = $state(0);

  const rows = $derived(view?.rows ?? []);
  const productions = $derived(open.summary!.productions);
  const current = $derived(rows.find((row) => row.id === selected) ?? rows[0] ?? null);
  const whole = $derived<Settings>({ ...settings, zone });
  const checked = $derived(settingsSchema.safeParse($state.snapshot(whole)));
  const problem = $derived(
    settings.formats.length === 0
      ? 'Choose at least one format.'
      : checked.success
        ? null
        : settingsProblem(checked.error)
  );
  const isPrinted = $derived(settings.formats.includes('pdf'));

  function report(error: unknown): void {
    open.failure = errorText(error);
  }

  $effect(() => {
    void open.version;
    void changes;
    Promise.all([open.desk.exhibits.view(), open.desk.exhibits.redactions()])
      .then(([found, covered]) => {
        view = found;
        redactions = covered;
      })
      .catch(report);
  });

  /** Settings are the case's: they are kept from their first change on. */
  let isLoaded = $state(false);

  $effect(() => {
    open.desk.exhibits
      .settings()
      .then((kept) => {
        if (kept) {
          settings = kept;
          zone = kept.zone ?? zone;
          preset = '';
        }
        isLoaded = true;
      })
      .catch(report);
  });

  $effect(() => {
    if (!isLoaded || !checked.success) return;
    const kept = checked.data;
    const timer = setTimeout(() => void open.desk.exhibits.keepSettings(kept).catch(report), WAIT);
    return () => clearTimeout(timer);
  });

  /** Why the pages could not be set. */
  let unset = $state<string | null>(null);

  const WAIT = 250;
  const MOMENT = 50;

  $effect(() => {
    void open.version;
    void redactions;
    if (!current || !isPrinted || !checked.success) return void (pages = null);
    const asked = checked.data;
    const { id } = current;
    // While settings are typed nothing is set.
    const timer = setTimeout(() => {
      open.desk.production
        .preview(asked, id)
        .then((made) => {
          if (!made) return;
          pages = made;
          unset = null;
        })
        .catch((error: unknown) => {
          pages = null;
          unset = errorText(error);
        });
    }, MOMENT);
    return () => clearTimeout(timer);
  });

  const label = $derived(`E${rows.findIndex((row) => row.id === current?.id) + 1}`);

  // Another exhibit, or pages that are set anew, are shown from the exhibit's first page.
  $effect(() => {
    if (pages && current) shown = pages.starts[label] ?? Math.min(shown, pages.pages);
  });

  $effect(() => {
    const url = result?.url;
    return () => {
      if (url) URL.revokeObjectURL(url);
    };
  });

  function pickSettings(found: Settings): void {
    settings = { ...found, redactions: [], reasons: [] };
    zone = found.zone ?? zone;
    if (found.redactions.length > 0) void addRedactions(found.redactions).catch(report);
  }

  /** Redactions of a file of settings become the case's. */
  async function addRedactions(found: Redaction[]): Promise<void> {
    await open.desk.exhibits.redact(found);
    changes++;
  }

  async function change(told: ExhibitChange): Promise<void> {
    await open.desk.exhibits.change(told);
    await settle();
    if (told.type !== 'drop' && told.type !== 'drop-list') return;
    notices.create({
      title: told.type === 'drop' ? 'The exhibit was removed.' : 'The list was removed.',
      action: {
        label: 'Undo',
        onClick: () => void open.desk.exhibits.undoDrop().then(settle).catch(report)
      }
    });
  }

  async function settle(): Promise<void> {
    open.summary = await open.desk.summary();
    changes++;
  }

  function go(correspondent: string, message: string): void {
    reading.enter(page.params.id!);
    reading.query = '';
    reading.states = [...STATES];
    [reading.from, reading.to] = [null, null];
    reading.correspondent = correspondent;
    reading.message = message;
    reading.facet = 'messages';
    reading.save();
    void goto(`/case/${page.params.id}/read`);
  }

  /** Files of which has to be decided, and where the records were to go. */
  let undecided = $state.raw<{
    files: UndecidedFile[];
    below: FileSystemDirectoryHandle | null;
  } | null>(null);

  async function decide(covered: UndecidedFile[], along: UndecidedFile[]): Promise<void> {
    const below = undecided?.below ?? null;
    undecided = null;
    try {
      if (along.length > 0) await open.desk.exhibits.letFilesGo(along);
      if (covered.length > 0)
        await addRedactions(
          covered.map(({ id, codes }) => ({ attachment: id, whole: true, code: codes[0]! }))
        );
      if (checked.success) await finish(open.desk.production.produce(checked.data, below), below);
    } catch (error) {
      report(error);
    }
  }

  async function finish(
    work: Promise<Produced>,
    below: FileSystemDirectoryHandle | null = null
  ): Promise<void> {
    working = true;
    open.failure = null;
    try {
      const made = await work;
      if ('undecided' in made) {
        undecided = { files: made.undecided, below };
        return;
      }
      result = { ...made, url: made.zip && URL.createObjectURL(made.zip) };
      if (made.zip) saveBlob(made.zip, made.name);
      await open.refresh();
    } catch (error) {
      open.failure = `The records were not produced: ${errorText(error)}`;
    } finally {
      working = false;
    }
  }

  /** Only some browsers let a page write into a folder. */
  const canWrite = 'showDirectoryPicker' in window;

  async function intoFolder(): Promise<void> {
    if (!checked.success) return;
    const asked = checked.data;
    try {
      const picker = window as unknown as {
        showDirectoryPicker(options: object): Promise<FileSystemDirectoryHandle>;
      };
      const below = await picker.showDirectoryPicker({ mode: 'readwrite' });
      await finish(open.desk.production.produce(asked, below), below);
    } catch (error) {
      // Who closes the picker wants nothing.
      if (!(error instanceof DOMException && error.name === 'AbortError')) report(error);
    }
  }

  async function saveCase(): Promise<void> {
    try {
      const name = open.summary!.record.name.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase();
      saveBlob(await open.desk.exportCase(), `${name}.case.json`);
      notices.create({ title: 'The case file was written.' });
    } catch (error) {
      report(error);
    }
  }
</script>

<div class="wrap">
  <ExhibitList
    view={view ?? NOTHING}
    {current}
    starts={pages?.starts ?? {}}
    pages={pages?.pages ?? 0}
    readHref="/case/{page.params.id}/read"
    onselect={(row: ExhibitRow) => (selected = row.id)}
    onchange={(told) => void change(told).catch(report)}
    ongo={({ first }) => first && go(first.correspondent, first.message)}
  />

  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <main aria-label="Preview" tabindex="0">
    {#if !current}
      <p class="soft hint">The preview appears with the first exhibit.</p>
    {:else if !isPrinted}
      <p class="soft hint">Choose PDF to see the pages as they will be printed.</p>
    {:else if pages}
      <div class="bar">
        <span aria-live="polite"
          >Page {count(shown)} of {count(pages.pages)}, as it will be printed</span
        >
        <span class="turn">
          <button class="action quiet" disabled={shown <= 1} onclick={() => shown--}
            >Previous page</button
          >
          <button class="action quiet" disabled={shown >= pages.pages} onclick={() => shown++}
            >Next page</button
          >
        </span>
      </div>
      <PagePreview
        pdf={pages.pdf}
        page={shown}
        label="Page {shown} of the record"
        onfail={report}
      />
    {:else if unset !== null}
      <p class="hint problem" role="alert">The pages could not be laid out: {unset}</p>
    {:else}
      <p class="soft hint" role="status">Laying out pages …</p>
    {/if}
  </main>

  <aside aria-label="Settings">
    <h2>Production</h2>
    <PresetPicker
      settings={checked.success ? checked.data : null}
      bind:chosen={preset}
      onpick={pickSettings}
      onfail={report}
    />
    <ProduceSettings bind:settings bind:zone {productions} pages={pages?.pages ?? null} />
    <Redactions {open} view={redactions} onchange={() => changes++} ongo={go} />
    {#if problem}<p class="problem" role="alert">{problem}</p>{/if}
    {#if working}
      <p class="soft" role="status">
        {open.producing
          ? `${open.producing.what}: ${open.producing.done} of ${open.producing.total}`
          : 'Producing …'}
      </p>
      <button class="action quiet go" onclick={() => void open.desk.production.stop()}>Stop</button>
    {:else}
      <button
        class="action main go"
        onclick={() =>
          checked.success && void finish(open.desk.production.produce(checked.data, null))}
        disabled={rows.length === 0 || problem !== null}>Produce records</button
      >
      {#if canWrite}
        <button
          class="action quiet go"
          onclick={() => void intoFolder()}
          disabled={rows.length === 0 || problem !== null}>Produce into a folder …</button
        >
      {/if}
    {/if}
    {#if result}
      <p class="done" role="status">
        {#if result.url}<a href={result.url} download={result.name}>{result.name}</a>{:else}<b
            >{result.name}</b
          >, in the folder that was chosen{/if}<br />
        {bytes(result.record.bytes)}, {plural(
          result.record.lines,
          'line'
        )}{#if result.record.pages},
          {plural(result.record.pages, 'page')}{/if}{#if result.record.first}, {result.record.first} to
          {result.record.last}{/if}<br />
        {#if result.isSame === true}<b>Byte for byte the same as the first time.</b><br />
        {:else if result.isSame === false}<b class="problem"
            >Not the same as the first time: {result.record.isLocked
              ? 'its password is not kept, so it is made without one'
              : 'the case changed since then'}.</b
          ><br />
        {/if}
        <span class="mono soft">SHA-256 of its list {result.record.sha256}</span>
      </p>
    {/if}
    <p class="soft">
      One archive with the checksum of every file in it, a page that says how to check them, and the
      log of what was done.
    </p>
    <ProductionHistory
      {productions}
      busy={working}
      onrepeat={(made) => void finish(open.desk.production.repeat(made.id))}
    />
    <hr />
    <PackageCheck {open} />
    <button class="action quiet go" onclick={saveCase}>Save the case file</button>
    <p class="soft">
      Everything found in this case as one JSON document, to be opened elsewhere or checked by a
      program.
    </p>
  </aside>
</div>

{#if undecided}<UndecidedFiles
    files={undecided.files}
    oncancel={() => (undecided = null)}
    ondecide={decide}
  />{/if}

<style>
  .wrap {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 300px minmax(0, 1fr) 320px;
  }
  aside {
    padding: 14px 18px;
    overflow: auto;
    border-left: 1px solid var(--rule);
  }
  h2 {
    font-size: 16px;
  }
  main {
    background: var(--hair);
    display: flex;
    flex-direction: column;
    padding: 0 16px 16px;
    min-height: 0;
    overflow: auto;
  }
  .bar {
    color: var(--soft);
    font-size: 12px;
    padding: 8px 0;
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 12px;
  }
  .turn {
    display: flex;
    gap: 6px;
  }
  .hint {
    margin: auto;
  }
  .problem {
    color: var(--alarm);
  }
  aside p {
    font-size: 12px;
    margin: 8px 0;
  }
  .go {
    margin-top: 6px;
    width: 100%;
    padding: 8px;
  }
  .done {
    overflow-wrap: anywhere;
  }
  .done a {
    color: var(--accent);
    font-weight: 600;
  }
  hr {
    border: 0;
    border-top: 1px solid var(--hair);
    margin: 12px 0;
  }
  @media (max-width: 900px) {
    .wrap {
      display: block;
      overflow: auto;
    }
    main {
      min-height: 60vh;
    }
    aside {
      border: 0;
    }
  }
</style>
