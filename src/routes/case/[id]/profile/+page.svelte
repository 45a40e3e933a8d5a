<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { CLOCKS_BY_NAME, type Clock, type DeskColumn, type Expression } from '$core/profiles';
  import type { OfferedReading, ProfileDesk, ReadingProfile, WorkedOut } from '$core/profiles';
  import ProfilePreview from '$lib/stations/profiles/ProfilePreview.svelte';
  import SavedProfiles from '$lib/stations/profiles/SavedProfiles.svelte';
  import { count, errorText, plural } from '$lib/format';
  import { useCase } from '$lib/state/desk.svelte';
  import {
    emptyProfile,
    expressionOf,
    mappingOf,
    named,
    same,
    withClock,
    withDirection,
    withRole,
    type Role
  } from '$lib/stations/profiles/mapping';
  import { notices } from '$lib/state/notices';
  import { saveBlob } from '$lib/state/save';
  import type { ProfileTrial } from '$lib/service/api/protocol';

  const open = useCase();
  const sourceId = page.url.searchParams.get('source') ?? '';
  const path = page.url.searchParams.get('path') ?? '';
  /** The table whose reading was asked for. */
  const asked = page.url.searchParams.get('table');

  const ROLES: { role: Role; title: string; none: boolean }[] = [
    { role: 'body', title: 'Text', none: false },
    { role: 'time', title: 'Time', none: false },
    { role: 'sender', title: 'Sender', none: true },
    { role: 'conversation', title: 'Conversation', none: true },
    { role: 'attachment', title: 'Attachment', none: true }
  ];
  const CLOCK_WORDS: Record<Clock, string> = {
    'seconds-1970': 'seconds since 1970',
    'milliseconds-1970': 'milliseconds since 1970',
    'microseconds-1970': 'microseconds since 1970',
    'nanoseconds-1970': 'nanoseconds since 1970',
    'seconds-2001': 'seconds since 2001',
    'nanoseconds-2001': 'nanoseconds since 2001',
    'microseconds-1601': 'microseconds since 1601',
    'ticks-1': '100-nanosecond ticks since the year 1',
    iso: 'date and time in words (ISO 8601)',
    uuid: 'inside an id (UUID)',
    ulid: 'inside an id (26 digits of base 32)',
    'object-id': 'inside an id (24 hex digits)',
    'sequence-1970': 'inside a number in sequence, from 1970',
    'sequence-2010': 'inside a number in sequence, from 2010',
    'sequence-2015': 'inside a number in sequence, from 2015'
  };

  let desk = $state.raw<ProfileDesk | null>(null);
  let failure = $state<string | null>(null);
  let profile = $state.raw<ReadingProfile | null>(null);
  let trial = $state.raw<ProfileTrial | null>(null);
  let title = $state('');
  let saved = $state(0);

  $effect(() => {
    untrack(() => load()).catch((error: unknown) => (failure = errorText(error)));
  });

  async function load(): Promise<void> {
    const found = await open.desk.profiles.desk(sourceId, path);
    if (!found) {
      failure =
        'The database cannot be opened: its source is not in this case, or its key must be entered again under Sources.';
      return;
    }
    desk = found;
    const { own, offered } = await open.desk.profiles.saved();
    const known = [...own, ...offered].find((p) => p.fingerprint === found.fingerprint);
    profile =
      found.offered.find(({ table }) => table === asked)?.profile ??
      known ??
      found.worked?.profile ??
      found.offered[0]?.profile ??
      (found.tables[0] ? emptyProfile(found.tables[0]) : null);
    title = known?.title ?? path.slice(path.lastIndexOf('/') + 1);
  }

  $effect(() => {
    const current = profile;
    if (!current) return;
    open.desk.profiles
      .attempt(sourceId, path, current)
      .then((result) => {
        if (current === profile) trial = result;
      })
      .catch((error: unknown) => (open.failure = errorText(error)));
  });

  const table = $derived(
    desk?.tables.find((known) => profile && known.name === mappingOf(profile).table) ?? null
  );
  const columns = $derived(table?.columns ?? []);
  const flags = $derived(columns.filter((column) => column.values.length > 0));
  const direction = $derived(profile ? mappingOf(profile).direction : null);
  const flag = $derived(
    direction && 'value' in direction
      ? (flags.find((column) => same(column.expression, direction.value)) ?? null)
      : null
  );
  /** Nothing says who wrote. */
  const isOpen = $derived(
    direction !== null && 'value' in direction && same(direction.value, { constant: '' })
  );
  const outgoing = $derived(
    direction && 'value' in direction
      ? Object.keys(direction.values).filter((value) => direction.values[value] === 'outgoing')
      : []
  );
  /** What was worked out of the table that is shown, or else of the likeliest. */
  const worked = $derived(workedOf(profile && mappingOf(profile).table) ?? desk?.worked ?? null);
  /** Asked until the direction is told, and only of the table that it is about. */
  const question = $derived(
    worked?.question && profile && mappingOf(profile).table === mappingOf(worked.profile).table
      ? worked.question
      : null
  );
  const answer = $derived(
    question && direction && 'value' in direction && same(direction.value, question.expression)
      ? (question.sides.find(({ value }) => direction.values[value] === 'outgoing')?.value ?? null)
      : null
  );

  function workedOf(name: string | null): WorkedOut | OfferedReading | null {
    if (!desk || name === null) return null;
    const { worked: best, offered } = desk;
    if (best && mappingOf(best.profile).table === name) return best;
    return offered.find(({ table }) => table === name) ?? null;
  }

  function answered(value: string): void {
    if (!profile || !question) return;
    const values = question.sides.map((side) => side.value);
    profile = withDirection(profile, question.expression, [value], values);
  }

  function indexOf(expression: Expression | null): string {
    const at = columns.findIndex((column) => same(column.expression, expression));
    return at >= 0 ? String(at) : 'other';
  }

  function chosen(role: Role, value: string): void {
    if (!profile || value === 'other') return;
    const column: DeskColumn | undefined = value === 'none' ? undefined : columns[Number(value)];
    profile = withRole(profile, role, column?.expression ?? null, column?.clock ?? null);
  }

  function turnTable(name: string): void {
    const next = desk?.tables.find((known) => known.name === name);
    if (!next) return;
    profile = workedOf(name)?.profile ?? emptyProfile(next);
  }

  function turnFlag(value: string): void {
    const column = flags[Number(value)];
    if (profile && column)
      profile = withDirection(profile, column.expression, column.values.slice(-1), column.values);
  }

  function turnValue(value: string, on: boolean): void {
    if (!profile || !flag) return;
    const set = on ? [...outgoing, value] : outgoing.filter((known) => known !== value);
    profile = withDirection(profile, flag.expression, set, flag.values);
  }

  async function save(begin: boolean): Promise<void> {
    if (!profile || !desk) return;
    try {
      await open.desk.profiles.save(named(profile, title.trim() || path, desk.fingerprint));
      saved++;
      notices.create({
        title: `“${title.trim() || path}” was saved. It reads the databases of this case that have the same tables, and is offered in others.`
      });
      if (!begin) return;
      await open.desk.sources.examine(sourceId, 'freed');
      await goto(`/case/${page.params.id}/sources`);
    } catch (error) {
      open.failure = errorText(error);
    }
  }

  function exportIt(): void {
    if (!profile || !desk) return;
    const text = JSON.stringify(named(profile, title.trim() || path, desk.fingerprint), null, 2);
    saveBlob(new Blob([text], { type: 'application/json' }), `${title || 'profile'}.profile.json`);
  }
</script>

<div class="wrap">
  <main>
    <a class="back" href="/case/{page.params.id}/sources">Sources</a>
    <h1>Profile desk</h1>
    <p class="mono path">{path}</p>
    {#if failure}
      <p class="alarm" role="alert">{failure}</p>
    {:else if !desk}
      <p class="soft">Sampling the tables …</p>
    {:else if !profile}
      <p>The database has no table with rows, so there is nothing to map.</p>
    {:else}
      {#if worked}
        <section class="why" aria-label="What was worked out">
          <b>Worked out, fit {worked.fit}</b>
          <ul>
            {#each worked.reasons as reason, i (i)}<li>{reason}</li>{/each}
          </ul>
        </section>
      {:else}
        <p class="soft">
          Nothing in these tables looks like messages by itself. Select the columns by hand.
        </p>
      {/if}

      {#if question}
        <section class="ask" aria-label="One question">
          <h2>Which of these messages did the owner write?</h2>
          <p class="soft">
            Column {question.column} splits the messages into two groups, and nothing in the data shows
            which group is the owner’s.
          </p>
          <div class="sides">
            {#each question.sides as side, n (n)}
              <div class:on={answer === side.value}>
                <ul>
                  {#each side.lines as line, i (i)}<li>{line}</li>{:else}<li class="soft">
                      messages where it is {side.value}
                    </li>{/each}
                </ul>
                <button
                  class="action"
                  aria-pressed={answer === side.value}
                  onclick={() => answered(side.value)}>The owner wrote these</button
                >
              </div>
            {/each}
          </div>
        </section>
      {/if}

      <details class="all" open={!question}>
        <summary>All columns</summary>
        <div class="form">
          <label for="map-table">Table of messages</label>
          <select
            id="map-table"
            class="field"
            value={mappingOf(profile).table}
            onchange={(event) => turnTable(event.currentTarget.value)}
          >
            {#each desk.tables as known, i (i)}
              <option value={known.name}
                >{known.name} ({count(known.rows)}{known.more ? ' or more' : ''} rows)</option
              >
            {/each}
          </select>
          {#each ROLES as { role, title: heading, none } (role)}
            {@const expression = expressionOf(profile, role)}
            {@const index = indexOf(expression)}
            <label for="map-{role}">{heading}</label>
            <div>
              <select
                id="map-{role}"
                class="field"
                value={expression === null ? 'none' : index}
                onchange={(event) => chosen(role, event.currentTarget.value)}
              >
                {#if none || expression === null}<option value="none">nothing</option>{/if}
                {#if index === 'other'}<option value="other"
                    >as worked out, through other tables</option
                  >{/if}
                {#each columns as column, i (i)}
                  <option value={String(i)}>{column.label}</option>
                {/each}
              </select>
              {#if columns[Number(index)]}
                <small class="samples"
                  >{columns[Number(index)]!.samples.join(' · ') || 'no values'}</small
                >
              {/if}
            </div>
            {#if role === 'time'}
              <label for="map-clock">Clock</label>
              <select
                id="map-clock"
                class="field"
                value={mappingOf(profile).sentAt.clock}
                onchange={(event) => {
                  if (profile) profile = withClock(profile, event.currentTarget.value as Clock);
                }}
              >
                {#each CLOCKS_BY_NAME as clock (clock)}<option value={clock}
                    >{CLOCK_WORDS[clock]}</option
                  >{/each}
              </select>
            {/if}
          {/each}
          <label for="map-direction">Direction</label>
          <div>
            <select
              id="map-direction"
              class="field"
              value={flag ? String(flags.indexOf(flag)) : 'other'}
              onchange={(event) => turnFlag(event.currentTarget.value)}
            >
              {#if !flag}<option value="other"
                  >{isOpen ? 'not known' : 'as worked out, by the writer'}</option
                >{/if}
              {#each flags as column, i (i)}<option value={String(i)}>{column.label}</option>{/each}
            </select>
            {#if flag}
              <fieldset>
                <legend>The owner wrote where it is</legend>
                {#each flag.values as value, i (i)}
                  <label class="value">
                    <input
                      type="checkbox"
                      checked={outgoing.includes(value)}
                      onchange={(event) => turnValue(value, event.currentTarget.checked)}
                    />
                    {value}
                  </label>
                {/each}
              </fieldset>
            {/if}
          </div>
        </div>
      </details>
      <div class="form">
        <label for="map-title">Name of the profile</label>
        <input id="map-title" class="field" bind:value={title} />
      </div>
      <div class="go">
        <button class="action main" onclick={() => save(true)}>Save and examine</button>
        <button class="action" onclick={() => save(false)}>Save profile</button>
        <button class="action quiet" onclick={exportIt}>Export</button>
      </div>
      <SavedProfiles {open} version={saved} />

      {#if table}
        <h2>
          {table.name} <small>{plural(table.rows, 'row')}{table.more ? ' or more' : ''}</small>
        </h2>
        <dl>
          {#each columns as column, i (i)}
            <div>
              <dt>{column.label}</dt>
              <dd>{column.samples.join(' · ') || 'no values'}</dd>
            </div>
          {/each}
        </dl>
      {/if}
    {/if}
  </main>
  <ProfilePreview {trial} />
</div>

<style>
  .wrap {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.05fr);
  }
  main {
    overflow: auto;
    padding: 14px 22px 30px;
    border-right: 1px solid var(--rule);
  }
  .back {
    color: var(--accent);
    font-size: 12.5px;
  }
  h1 {
    font-size: 20px;
  }
  h2 {
    font-size: 15px;
    margin: 18px 0 6px;
  }
  h2 small,
  .samples {
    font: 12px var(--font-plain);
    color: var(--soft);
  }
  .samples {
    display: block;
    overflow-wrap: anywhere;
    margin-top: 2px;
  }
  .path {
    margin: 2px 0 10px;
    color: var(--soft);
    overflow-wrap: anywhere;
  }
  .alarm {
    color: var(--alarm);
  }
  .ask {
    border: 1px solid var(--accent);
    background: var(--sheet);
    padding: 10px 14px 12px;
    margin-bottom: 12px;
  }
  .ask h2 {
    margin: 0 0 2px;
  }
  .ask p {
    margin: 0 0 8px;
    font-size: 12.5px;
  }
  .sides {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 14px;
  }
  .sides > div {
    display: flex;
    flex-direction: column;
    border-top: 2px solid var(--rule);
    padding-top: 6px;
  }
  .sides > .on {
    border-top-color: var(--accent);
  }
  .sides ul {
    list-style: none;
    margin: 0 0 8px;
    padding: 0;
    font: 13.5px/1.4 var(--font-text);
  }
  .sides li {
    overflow-wrap: anywhere;
    margin-bottom: 4px;
  }
  .sides .action {
    margin-top: auto;
    align-self: start;
  }
  .why {
    border: 1px solid var(--rule);
    background: var(--sheet);
    padding: 8px 12px;
    font-size: 12.5px;
    margin-bottom: 12px;
  }
  .why ul {
    margin: 4px 0 0;
    padding-left: 18px;
    color: var(--soft);
    list-style: disc;
  }
  .all {
    margin-bottom: 8px;
  }
  .all summary {
    margin-bottom: 6px;
    color: var(--soft);
    cursor: pointer;
  }
  .form {
    display: grid;
    grid-template-columns: 150px minmax(0, 1fr);
    gap: 8px 12px;
    align-items: start;
  }
  .form > label {
    padding-top: 5px;
    color: var(--soft);
  }
  select,
  .form > input {
    width: 100%;
  }
  fieldset {
    border: 0;
    padding: 0;
    margin: 5px 0 0;
    display: flex;
    flex-wrap: wrap;
    gap: 2px 12px;
    font-size: 12.5px;
  }
  legend {
    color: var(--soft);
  }
  .value {
    display: inline-flex;
    gap: 5px;
    align-items: center;
  }
  .go {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    margin: 14px 0;
  }
  dl {
    margin: 0;
    font-size: 12.5px;
  }
  dl div {
    display: grid;
    grid-template-columns: 190px minmax(0, 1fr);
    gap: 10px;
    padding: 3px 0;
    border-bottom: 1px solid var(--hair);
  }
  dt {
    font: 11.5px var(--font-code);
    overflow-wrap: anywhere;
  }
  dd {
    margin: 0;
    color: var(--soft);
    overflow-wrap: anywhere;
  }
  @media (max-width: 900px) {
    .wrap {
      display: block;
      overflow: auto;
    }
    main {
      overflow: visible;
      border: 0;
      padding: 12px;
    }
    .form {
      grid-template-columns: minmax(0, 1fr);
      gap: 2px 0;
    }
  }
</style>
