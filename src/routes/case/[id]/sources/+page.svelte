<script lang="ts">
  import { onMount } from 'svelte';
  import { page } from '$app/state';
  import FilePick from '$lib/ui/FilePick.svelte';
  import PassSetup from '$lib/stations/sources/PassSetup.svelte';
  import SourceCard from '$lib/stations/sources/SourceCard.svelte';
  import {
    canReadInPlace,
    groupFolder,
    groupPicked,
    groupsDropped,
    pickPlaces,
    type Dropped,
    type FileGroup,
    type PlacedGroup
  } from '$lib/files';
  import RemovedSources from '$lib/stations/sources/RemovedSources.svelte';
  import RoomHere from '$lib/stations/sources/RoomHere.svelte';
  import type { AddResult } from '$lib/service/api/protocol';
  import { errorText, plural } from '$lib/format';
  import { useCase } from '$lib/state/desk.svelte';
  import { takeIncoming } from '$lib/state/incoming';
  import { notices } from '$lib/state/notices';

  const open = useCase();
  const sources = $derived(open.summary?.sources ?? []);
  let selected = $state<string | null>(null);
  let over = $state(false);

  const current = $derived(
    sources.find((source) => source.id === selected) ?? sources.at(-1) ?? null
  );

  /** Locked sources into whose field something was typed. */
  let unlocking = $state.raw<string[]>([]);

  const fresh = $derived(
    sources.filter(
      ({ id, pass, glance }) =>
        pass.state === 'none' && (glance?.worth !== false || unlocking.includes(id))
    )
  );
  const looking = $derived(
    sources.some(({ glance, pass }) => glance === null && pass.state === 'none')
  );

  let beginning = $state(false);

  async function examine(): Promise<void> {
    beginning = true;
    try {
      await open.giveTypedKeys();
      await open.desk.sources.examineNew();
    } catch (error) {
      open.failure = errorText(error);
    } finally {
      beginning = false;
    }
  }

  /** Files are copied into this browser instead of being read where they lie. */
  let copies = $state(!canReadInPlace());

  async function add(groups: FileGroup[]): Promise<void> {
    for (const { name, files } of groups)
      await shelve(name, () => open.desk.sources.add(name, files));
  }

  async function addInPlace(groups: PlacedGroup[]): Promise<void> {
    for (const { name, place } of groups)
      await shelve(name, () => open.desk.sources.addInPlace(name, place));
  }

  onMount(() => void take(takeIncoming()));

  async function take({ places, groups }: Dropped): Promise<void> {
    await addInPlace(places);
    await add(groups);
  }

  async function shelve(name: string, put: () => Promise<AddResult>): Promise<void> {
    try {
      const result = await put();
      if (!result.ok) {
        open.failure = result.reason;
        return;
      }
      selected = result.source.id;
      if (result.met)
        notices.create({
          title: `${name} is the evidence of “${result.source.name}”: what was found and selected in it is here.`
        });
      if (result.known)
        notices.create({
          title: `${name} holds the same bytes as “${result.known}”, which is already in this case.`
        });
    } catch (error) {
      open.failure = `${name} could not be read: ${errorText(error)}`;
    }
  }

  async function pick(folder: boolean): Promise<void> {
    try {
      await addInPlace(await pickPlaces(folder));
    } catch (error) {
      open.failure = errorText(error);
    }
  }

  async function dropped(event: DragEvent): Promise<void> {
    event.preventDefault();
    over = false;
    if (!event.dataTransfer) return;
    try {
      await take(await groupsDropped(event.dataTransfer, copies));
    } catch (error) {
      open.failure = `What was dropped could not be read: ${errorText(error)}`;
    }
  }
</script>

<div
  class="wrap"
  class:over
  role="region"
  aria-label="Sources; files can be dropped here"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={(event) => {
    if (event.currentTarget === event.target) over = false;
  }}
  ondrop={dropped}
>
  <main>
    <div class="top">
      <h1>Sources</h1>
      {#if fresh.length > 0}<button class="action main" onclick={examine} disabled={beginning}
          >{beginning && looking
            ? 'Begins when all were looked at'
            : fresh.length === 1
              ? `Examine ${fresh[0]!.name}`
              : `Examine ${plural(fresh.length, 'source')}`}</button
        >{/if}
      <a class="action" href="/case/{page.params.id}/bench">Copy on the bench</a>
      <FilePick
        title="Add files"
        testid="files"
        class="action"
        isMultiple
        instead={copies ? null : () => pick(false)}
        onpick={(files) => add(groupPicked(files))}
      />
      <FilePick
        title="Add a folder"
        testid="folder"
        class="action"
        isFolder
        instead={copies ? null : () => pick(true)}
        onpick={(files) => add(groupFolder(files))}
      />
    </div>
    <RoomHere bind:copies canChoose={canReadInPlace()} />
    {#each sources as source (source.id)}
      <SourceCard
        {source}
        {open}
        selected={source.id === current?.id}
        onselect={() => (selected = source.id)}
        ontyped={() => (unlocking = [...open.typedKeys.keys()])}
      />
    {:else}
      <section class="empty">
        <h2>No sources yet</h2>
        <p>
          Drop what the client brought, or add it: a message database, a backup’s folder, an
          archive, a card or its dump, a copy of a file system, exported chats. Each is recognised
          by its content. Or take a copy of a handset, a card or a cloud vault on the
          <a href="/case/{page.params.id}/bench">bench</a>. Add files that end in
          <code>-wal</code>
          and <code>-journal</code> with their database: they hold its newest and oldest states.
        </p>
        <p>
          The source is only read{copies
            ? '. A copy of it is kept in this browser, so that a reload loses nothing.'
            : ' where it lies. What is found is kept in this browser, so that a reload loses nothing.'}
        </p>
      </section>
    {/each}
    <RemovedSources {open} />
    {#if sources.length > 0}<p class="soft hint">
        Further files can be dropped anywhere on this page.
      </p>{/if}
  </main>
  {#if current}<PassSetup source={current} {open} />{/if}
</div>

<style>
  .wrap {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 1fr 318px;
  }
  .over {
    box-shadow: inset 0 0 0 3px var(--accent);
  }
  main {
    padding: 16px 22px;
    overflow: auto;
    min-width: 0;
  }
  .top {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 10px;
    margin-bottom: 12px;
  }
  a.action {
    text-decoration: none;
  }
  .top .action {
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  h1 {
    font-size: 20px;
    margin-right: auto;
  }
  .empty {
    border: 1px dashed var(--rule);
    background: var(--sheet);
    padding: 30px 36px;
    font: 15.5px/1.55 var(--font-text);
  }
  .empty h2 {
    font-size: 18px;
  }
  .empty p {
    margin: 8px 0 0;
    max-width: 72ch;
  }
  code {
    font: 13px var(--font-code);
    background: none;
    color: inherit;
    padding: 0;
  }
  .hint {
    font-size: 12px;
  }
  @media (max-width: 900px) {
    .wrap {
      display: block;
      overflow: auto;
    }
    main {
      overflow: visible;
      padding: 12px;
    }
  }
</style>
