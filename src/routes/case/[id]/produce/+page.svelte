<script lang="ts">
  import { FORMATS, type Format } from '$core/produce';
  import { page } from '$app/state';
  import ZoneField from '$lib/parts/ZoneField.svelte';
  import { bytes, count, date, errorText, plural } from '$lib/format';
  import { useCase } from '$lib/state/desk.svelte';
  import { notices } from '$lib/state/notices';
  import type { ExhibitRow, ProductionResult } from '$lib/worker/protocol';

  const open = useCase();
  const names = Object.keys(FORMATS) as Format[];

  let exhibits = $state.raw<ExhibitRow[]>([]);
  let selected = $state<string | null>(null);
  let formats = $state<Format[]>(['html', 'csv', 'text']);
  let zone = $state(open.summary!.record.zone);
  let preview = $state('');
  let working = $state(false);
  let result = $state.raw<(ProductionResult & { url: string }) | null>(null);

  const lines = $derived(exhibits.reduce((sum, row) => sum + row.lines, 0));
  const productions = $derived(open.summary!.productions);
  const current = $derived(
    exhibits.find((row) => row.correspondent === selected) ?? exhibits[0] ?? null
  );

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

  $effect(() => {
    void open.version;
    if (!current) return void (preview = '');
    open.desk
      .preview({ formats: ['html'], zone }, current.correspondent)
      .then((text) => (preview = text))
      .catch(report);
  });

  $effect(() => {
    const url = result?.url;
    return () => {
      if (url) URL.revokeObjectURL(url);
    };
  });

  async function run(): Promise<void> {
    working = true;
    try {
      const made = await open.desk.produce({ formats: $state.snapshot(formats), zone });
      result = { ...made, url: URL.createObjectURL(made.zip) };
      download(result.url, made.name);
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

  async function drop(row: ExhibitRow): Promise<void> {
    const filter = {
      query: '',
      states: ['live', 'held', 'recovered', 'fragment', 'earlier'] as const,
      from: null,
      to: null
    };
    await open.desk.chooseThread(
      row.correspondent,
      { ...filter, states: [...filter.states] },
      false
    );
    await open.refresh();
  }

  async function saveCase(): Promise<void> {
    try {
      const url = URL.createObjectURL(await open.desk.exportCase());
      download(
        url,
        `${open.summary!.record.name.replace(/[^\p{L}\p{N}]+/gu, '-').toLowerCase()}.case.json`
      );
      setTimeout(() => URL.revokeObjectURL(url), 60_000);
      notices.create({ title: 'The case file was written.' });
    } catch (error) {
      report(error);
    }
  }
</script>

<div class="wrap">
  <section class="list" aria-label="Exhibit list">
    <h1>Exhibit list</h1>
    <small>{plural(exhibits.length, 'conversation')} · {plural(lines, 'line')}</small>
    {#each exhibits as row, i (row.correspondent)}
      <article class:on={row === current}>
        <span class="no">E{i + 1}</span>
        <button
          class="name"
          onclick={() => (selected = row.correspondent)}
          aria-pressed={row === current}><bdi>{row.name}</bdi></button
        >
        <span class="mono">{count(row.lines)}</span>
        <span class="facts">
          {row.lines === row.of
            ? 'whole thread'
            : `${count(row.lines)} of ${plural(row.of, 'line')}`} · {row.span}{#if row.notLive > 0}&nbsp;·
            <em>{count(row.notLive)} not live</em>{/if}
        </span>
        <button
          class="drop"
          onclick={() => drop(row).catch(report)}
          aria-label="Drop {row.name} from the list">Drop</button
        >
      </article>
    {:else}
      <p class="soft none">
        Nothing is chosen yet. In <a href="/case/{page.params.id}/read">Read</a>, choose lines with
        <kbd>x</kbd> or whole threads with “Choose thread”.
      </p>
    {/each}
  </section>

  <main aria-label="Preview">
    {#if current}
      <div class="bar">Web page of E{exhibits.indexOf(current) + 1}, as it will be written</div>
      <!-- One document a frame: a frame that is given another while it loads can stay blank. -->
      {#if preview !== ''}
        {#key preview}
          <iframe title="Preview of {current.name}" sandbox="" srcdoc={preview}></iframe>
        {/key}
      {/if}
    {:else}
      <p class="soft hint">The preview appears with the first exhibit.</p>
    {/if}
  </main>

  <aside aria-label="Settings">
    <h2>Production</h2>
    <fieldset>
      <legend>Formats</legend>
      {#each names as name (name)}
        <label class="tick" class:on={formats.includes(name)}
          ><input type="checkbox" value={name} bind:group={formats} />{FORMATS[name].title}</label
        >
      {/each}
    </fieldset>
    <label class="row">Zone <ZoneField bind:zone label="Zone of the times in the records" /></label>
    <p class="soft">
      One archive with an index page, the conversations, and the SHA-256 of every file. Lines that
      are not live carry their proof.
    </p>
    <button
      class="action main go"
      onclick={run}
      disabled={working || exhibits.length === 0 || formats.length === 0}
      >{working ? 'Producing …' : 'Produce records'}</button
    >
    {#if result}
      <p class="done" role="status">
        <a href={result.url} download={result.name}>{result.name}</a><br />
        {bytes(result.record.bytes)}, {plural(result.record.lines, 'line')}<br />
        <span class="mono soft">SHA-256 {result.record.sha256}</span>
      </p>
    {/if}
    <hr />
    <button class="action quiet go" onclick={saveCase}>Save the case file</button>
    <p class="soft">
      Everything found in this case as one JSON document, to be opened elsewhere or checked by a
      program.
    </p>
    {#if productions.length > 0}
      <h2 class="small">Earlier productions</h2>
      <ul>
        {#each productions as made (made.id)}
          <li>
            {date(made.made)}, {plural(made.lines, 'line')}
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
    grid-template-columns: 300px minmax(0, 1fr) 290px;
  }
  .list,
  aside {
    padding: 14px 18px;
    overflow: auto;
  }
  .list {
    border-right: 1px solid var(--rule);
  }
  aside {
    border-left: 1px solid var(--rule);
  }
  h1,
  h2 {
    font-size: 16px;
  }
  .small {
    font-size: 13px;
    margin-top: 12px;
  }
  small,
  .facts {
    color: var(--soft);
    font-size: 12px;
  }
  article {
    border: 1px solid var(--rule);
    background: var(--sheet);
    margin-top: 9px;
    padding: 8px 10px 8px 12px;
    display: grid;
    grid-template-columns: 30px minmax(0, 1fr) auto;
    gap: 0 6px;
    border-radius: 2px;
  }
  article.on {
    box-shadow: inset 3px 0 var(--accent);
  }
  .no {
    font: 11px/2 var(--font-code);
    color: var(--soft);
  }
  .name {
    font: 600 14px var(--font-text);
    text-align: left;
    cursor: pointer;
    overflow-wrap: anywhere;
  }
  .facts {
    grid-column: 2;
  }
  .facts em {
    font-style: normal;
    color: var(--ochre);
  }
  .drop {
    align-self: end;
    font-size: 12px;
    color: var(--soft);
    text-decoration: underline;
    cursor: pointer;
  }
  .none {
    margin-top: 12px;
  }
  .none a {
    color: var(--accent);
  }
  main {
    background: var(--hair);
    display: flex;
    flex-direction: column;
    padding: 0 16px 16px;
    min-height: 0;
  }
  .bar {
    color: var(--soft);
    font-size: 12px;
    padding: 8px 0;
  }
  iframe {
    flex: 1;
    min-height: 320px;
    width: 100%;
    border: 0;
    background: #fdfcf8;
    box-shadow: 0 1px 10px rgb(0 0 0 / 0.13);
  }
  .hint {
    margin: auto;
  }
  fieldset {
    border: 0;
    padding: 0;
    margin: 10px 0;
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  legend,
  .row {
    color: var(--soft);
    margin-bottom: 4px;
  }
  .row {
    display: grid;
    gap: 4px;
  }
  .tick {
    border: 1px solid var(--rule);
    border-radius: 2px;
    padding: 2px 9px 2px 6px;
    background: var(--sheet);
    color: var(--soft);
    cursor: pointer;
    display: inline-flex;
    gap: 6px;
    align-items: center;
  }
  .tick input {
    accent-color: var(--accent);
  }
  .tick.on {
    border-color: var(--accent);
    color: var(--accent);
    font-weight: 600;
    background: var(--accent-wash);
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
      height: 60vh;
    }
    .list,
    aside {
      border: 0;
    }
  }
</style>
