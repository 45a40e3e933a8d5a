<script lang="ts">
  import { settingsProblem, settingsSchema, type Settings, type Verification } from '$core/produce';
  import { page } from '$app/state';
  import ExhibitList from '$lib/parts/ExhibitList.svelte';
  import PagePreview from '$lib/parts/PagePreview.svelte';
  import Redactions from '$lib/parts/Redactions.svelte';
  import ProduceSettings from '$lib/parts/ProduceSettings.svelte';
  import { bytes, count, date, errorText, plural } from '$lib/format';
  import { useCase } from '$lib/state/desk.svelte';
  import { notices } from '$lib/state/notices';
  import { PRESETS } from '$lib/state/presets';
  import type { ExhibitRow, PagePreview as Pages, ProductionResult } from '$lib/worker/protocol';

  const open = useCase();

  let exhibits = $state.raw<ExhibitRow[]>([]);
  let selected = $state<string | null>(null);
  let preset = $state(PRESETS[0]!.id);
  let settings = $state<Settings>(structuredClone(PRESETS[0]!.settings));
  let zone = $state(open.summary!.record.zone);
  let pages = $state.raw<Pages | null>(null);
  let shown = $state(1);
  let working = $state(false);
  let result = $state.raw<(ProductionResult & { url: string }) | null>(null);

  const productions = $derived(open.summary!.productions);
  const current = $derived(
    exhibits.find((row) => row.correspondent === selected) ?? exhibits[0] ?? null
  );
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
    open.desk
      .exhibits()
      .then((rows) => (exhibits = rows))
      .catch(report);
  });

  /** Settings are the case's: they are kept from their first change on. */
  let isLoaded = $state(false);

  $effect(() => {
    open.desk
      .keptSettings()
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
    const timer = setTimeout(() => void open.desk.keepSettings(kept).catch(report), WAIT);
    return () => clearTimeout(timer);
  });

  const WAIT = 250;

  $effect(() => {
    void open.version;
    if (!current || !isPrinted || !checked.success) return void (pages = null);
    const asked = checked.data;
    const { correspondent } = current;
    // While settings are typed nothing is set.
    const timer = setTimeout(() => {
      open.desk
        .preview(asked, correspondent)
        .then((made) => {
          if (made) pages = made;
        })
        .catch(report);
    }, WAIT);
    return () => clearTimeout(timer);
  });

  $effect(() => {
    if (pages && current) shown = pages.starts[current.correspondent] ?? 1;
  });

  $effect(() => {
    const url = result?.url;
    return () => {
      if (url) URL.revokeObjectURL(url);
    };
  });

  function choosePreset(id: string): void {
    const found = PRESETS.find((known) => known.id === id);
    // Redactions are of the case, not of its reader.
    const { redactions } = settings;
    if (found) settings = { ...structuredClone(found.settings), redactions };
  }

  async function run(): Promise<void> {
    if (!checked.success) return;
    working = true;
    open.failure = null;
    try {
      const made = await open.desk.produce(checked.data);
      result = { ...made, url: URL.createObjectURL(made.zip) };
      download(result.url, made.name);
      await open.refresh();
    } catch (error) {
      open.failure = `The records were not produced: ${errorText(error)}`;
    } finally {
      working = false;
    }
  }

  function download(url: string, name: string): void {
    const link = document.createElement('a');
    link.href = url;
    link.download = name;
    link.click();
  }

  function save(text: string, name: string): void {
    const url = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
    download(url, name);
    setTimeout(() => URL.revokeObjectURL(url), 60_000);
  }

  function savePreset(): void {
    if (!checked.success) return;
    // A choice of lines belongs to a case, a password to nobody else.
    const kept = { ...checked.data, pdf: { ...checked.data.pdf, password: null } };
    save(`${JSON.stringify(kept, null, 2)}\n`, 'production-settings.json');
  }

  async function openPreset(files: FileList | null): Promise<void> {
    const file = files?.[0];
    if (!file) return;
    try {
      const read = settingsSchema.safeParse(JSON.parse(await file.text()));
      if (!read.success) {
        open.failure = `${file.name} holds no settings: ${settingsProblem(read.error)}.`;
        return;
      }
      settings = { ...read.data, formats: read.data.formats.filter((name) => name !== 'database') };
      zone = read.data.zone ?? zone;
      preset = '';
    } catch (error) {
      open.failure = `${file.name} holds no settings: ${errorText(error)}`;
    }
  }

  let verified = $state.raw<{ name: string; told: Verification } | null>(null);

  async function verify(files: FileList | null): Promise<void> {
    const file = files?.[0];
    if (!file) return;
    verified = null;
    try {
      verified = { name: file.name, told: await open.desk.verifyArchive(file) };
    } catch (error) {
      open.failure = `${file.name} ${errorText(error)}.`;
    }
  }

  async function drop(row: ExhibitRow): Promise<void> {
    const states: ('live' | 'held' | 'recovered' | 'fragment' | 'earlier')[] = [
      'live',
      'held',
      'recovered',
      'fragment',
      'earlier'
    ];
    const filter = { query: '', states, from: null, to: null };
    await open.desk.chooseThread(row.correspondent, filter, false);
    await open.refresh();
  }

  async function saveCase(): Promise<void> {
    try {
      const url = URL.createObjectURL(await open.desk.exportCase());
      const name = open.summary!.record.name.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase();
      download(url, `${name}.case.json`);
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
      notices.create({ title: 'The case file was written.' });
    } catch (error) {
      report(error);
    }
  }
</script>

<div class="wrap">
  <ExhibitList
    {exhibits}
    {current}
    readHref="/case/{page.params.id}/read"
    onselect={(row) => {
      selected = row.correspondent;
    }}
    ondrop={(row) => void drop(row).catch(report)}
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
            >Page before</button
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
    {:else}
      <p class="soft hint" role="status">Setting the pages …</p>
    {/if}
  </main>

  <aside aria-label="Settings">
    <h2>Production</h2>
    <label class="preset" for="preset">Settings for</label>
    <select id="preset" bind:value={preset} onchange={() => choosePreset(preset)}>
      {#each PRESETS as known (known.id)}<option value={known.id}>{known.title}</option>{/each}
      {#if preset === ''}<option value="">as they were left</option>{/if}
    </select>
    <p class="files">
      <button class="link" onclick={savePreset}>Save these settings</button> ·
      <label class="link"
        >open saved ones<input
          class="said"
          type="file"
          accept="application/json,.json"
          onchange={(event) => void openPreset(event.currentTarget.files)}
        /></label
      >
    </p>
    <ProduceSettings bind:settings bind:zone />
    <Redactions
      bind:redactions={settings.redactions}
      lineOf={(line) => open.desk.chosenLine(line)}
    />
    {#if problem}<p class="problem" role="alert">{problem}</p>{/if}
    {#if working}
      <p class="soft" role="status">
        {open.producing
          ? `${open.producing.what}: ${open.producing.done} of ${open.producing.total}`
          : 'Producing …'}
      </p>
      <button class="action quiet go" onclick={() => void open.desk.stopProducing()}>Stop</button>
    {:else}
      <button
        class="action main go"
        onclick={run}
        disabled={exhibits.length === 0 || problem !== null}>Produce records</button
      >
    {/if}
    {#if result}
      <p class="done" role="status">
        <a href={result.url} download={result.name}>{result.name}</a><br />
        {bytes(result.record.bytes)}, {plural(
          result.record.lines,
          'line'
        )}{#if result.record.pages},
          {plural(result.record.pages, 'page')}{/if}{#if result.record.first}, {result.record.first} to
          {result.record.last}{/if}<br />
        <span class="mono soft">SHA-256 of its list {result.record.sha256}</span>
      </p>
    {/if}
    <p class="soft">
      One archive with the checksum of every file in it, a page that says how to check them, and the
      log of what was done.
    </p>
    <hr />
    <button class="action quiet go" onclick={saveCase}>Save the case file</button>
    <p class="soft">
      Everything found in this case as one JSON document, to be opened elsewhere or checked by a
      program.
    </p>
    <p>
      <label class="link"
        >Check a package<input
          class="said"
          type="file"
          accept=".zip,application/zip"
          onchange={(event) => void verify(event.currentTarget.files)}
        /></label
      > that was produced here or elsewhere.
    </p>
    {#if verified}
      <div class="verified" role="status">
        {#if verified.told.ok}
          <b>Nothing was changed.</b> All {count(verified.told.files)} files of {verified.name} are as
          they were made, and the log holds.
        {:else}
          <b class="problem">{verified.name} differs.</b>
          <ul>
            {#each verified.told.differences.slice(0, 20) as difference, i (i)}
              <li>{difference.path}: {difference.what}</li>
            {/each}
          </ul>
        {/if}
      </div>
    {/if}
    {#if productions.length > 0}
      <h2 class="small">Earlier productions</h2>
      <ul>
        {#each productions as made (made.id)}
          <li>
            {date(made.made)}, {plural(made.lines, 'line')}{#if made.first}, {made.first} to {made.last}{/if}
            <span class="mono soft">{made.sha256.slice(0, 12)}…</span>
          </li>
        {/each}
      </ul>
    {/if}
  </aside>
</div>

<style>
  .wrap {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 290px minmax(0, 1fr) 310px;
  }
  aside {
    padding: 14px 18px;
    overflow: auto;
    border-left: 1px solid var(--rule);
  }
  h2 {
    font-size: 16px;
  }
  .small {
    font-size: 13px;
    margin-top: 12px;
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
  .preset {
    color: var(--soft);
    font-size: 12px;
    display: block;
    margin-top: 8px;
  }
  select {
    font: inherit;
    font-size: 13px;
    width: 100%;
    padding: 3px 7px;
    border: 1px solid var(--rule);
    border-radius: 2px;
    background: var(--sheet);
    color: var(--ink);
  }
  .link {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
    font: inherit;
  }
  .link:focus-within {
    outline: 2px solid var(--accent);
  }
  .said {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  .verified {
    font-size: 12px;
    overflow-wrap: anywhere;
  }
  .problem {
    color: var(--alarm);
  }
  aside p {
    font-size: 12px;
    margin: 8px 0;
  }
  .go {
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
  ul {
    margin: 4px 0 0;
    padding: 0;
    list-style: none;
    font-size: 12px;
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
