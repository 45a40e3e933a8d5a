<script lang="ts">
  import { TZDate } from '@date-fns/tz';
  import type { Kind } from '$core/examine';
  import type { Depth } from '$core/records';
  import { errorText } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { SourceRecord } from '$lib/storage/schema';
  import DayField from '../../ui/DayField.svelte';

  const { source, open }: { source: SourceRecord; open: OpenCase } = $props();

  const DEPTHS: { depth: Depth; title: string; text: string }[] = [
    { depth: 'indexed', title: 'Existing records', text: 'what each store lists itself' },
    {
      depth: 'freed',
      title: 'Existing and deleted',
      text: 'also what its files still hold: freed cells, free pages, log and journal'
    },
    {
      depth: 'whole',
      title: 'Everything, raw data too',
      text: 'also files of unknown kind, byte by byte: raw images, unallocated areas, dumps of memory'
    }
  ];

  const KINDS: { kind: Kind; title: string }[] = [
    { kind: 'messages', title: 'Messages' },
    { kind: 'calls', title: 'Calls' },
    { kind: 'contacts', title: 'Contacts' },
    { kind: 'media', title: 'Media' },
    { kind: 'files', title: 'Files' }
  ];

  let depth = $state<Depth>('freed');
  let kinds = $state<Kind[]>(KINDS.map(({ kind }) => kind));
  let from = $state<string | null>(null);
  let to = $state<string | null>(null);
  let addresses = $state('');
  // What a source was last asked for, or what it needs, is set beforehand. A quick
  // look may end after the source is shown: it still sets what nobody has chosen.
  $effect(() => {
    const { id, pass, glance } = source;
    if (id !== setFor) chosen = false;
    setFor = id;
    if (chosen) return;
    depth = pass.state === 'none' ? (glance?.depth ?? 'freed') : pass.depth;
  });
  let setFor: string | null = null;
  let chosen = false;

  const busy = $derived(source.pass.state === 'running' || source.pass.state === 'queued');
  const examined = $derived(source.pass.state === 'done');

  /** The beginning of a day in the case's zone, or of one so many days behind it. */
  function dayStart(day: string | null, behind = 0): number | null {
    const [year, month, date] = (day ?? '').split('-').map(Number);
    if (!year || !month || !date) return null;
    return new TZDate(year, month - 1, date + behind, open.summary!.record.zone).getTime();
  }

  async function begin(): Promise<void> {
    try {
      // Days on which the clock changes are shorter or longer than others.
      const next = dayStart(to, 1);
      const span = { from: dayStart(from), to: next === null ? null : next - 1 };
      await open.giveTypedKeys();
      await open.desk.sources.examine(source.id, depth, {
        kinds: [...kinds],
        from: span.from,
        to: span.to,
        addresses: addresses.split(/[,;\n]/).filter((address) => address.trim() !== '')
      });
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

<aside aria-label="Set up an examination">
  <h2>{examined ? 'Examine again' : 'Examine'}</h2>
  <span class="soft">on {source.name}</span>
  <fieldset>
    <legend class="visually-hidden">Depth</legend>
    {#each DEPTHS as option (option.depth)}
      <label class:on={depth === option.depth}>
        <input
          type="radio"
          name="depth"
          value={option.depth}
          bind:group={depth}
          onchange={() => (chosen = true)}
        />
        <b>{option.title}</b>
        <small>{option.text}</small>
      </label>
    {/each}
  </fieldset>
  <details>
    <summary>Limit the search</summary>
    <fieldset class="kinds">
      <legend>Kinds</legend>
      {#each KINDS as { kind, title } (kind)}
        <label><input type="checkbox" value={kind} bind:group={kinds} /> {title}</label>
      {/each}
    </fieldset>
    <div class="days">
      <label for="want-from">From</label>
      <DayField
        id="want-from"
        label="First day to look for"
        value={from}
        max={to}
        onchange={(day) => (from = day)}
      />
      <label for="want-to">To</label>
      <DayField
        id="want-to"
        label="Last day to look for"
        value={to}
        min={from}
        onchange={(day) => (to = day)}
      />
    </div>
    <label class="with" for="want-with">Only with these numbers or addresses</label>
    <input
      id="want-with"
      class="field wide"
      placeholder="all; separate several with commas"
      bind:value={addresses}
    />
  </details>
  <button
    class="action main go"
    onclick={begin}
    disabled={busy || source.isAway || kinds.length === 0}
    >{busy ? 'Examining …' : 'Examine'}</button
  >
  {#if source.stores.length > 0}
    <a class="action go" href="/case/{source.caseId}/read">Read what was found</a>
  {/if}
  {#if source.isAway}
    <p>
      It came with a case file. Add its evidence on this page: it is recognised by its checksums,
      and can then be looked into and examined.
    </p>
  {/if}
  <p class="soft">
    The source is only read. You can go on reading while it is examined. A stop loses nothing that
    was kept before.
  </p>
</aside>

<style>
  aside {
    border-left: 1px solid var(--rule);
    padding: 16px 20px;
    background: var(--sheet);
    overflow: auto;
  }
  h2 {
    font-size: 17px;
  }
  .soft {
    overflow-wrap: anywhere;
  }
  fieldset {
    border: 0;
    margin: 6px 0 0;
    padding: 0;
  }
  fieldset:not(.kinds) label {
    display: grid;
    grid-template-columns: 22px 1fr;
    border: 1px solid var(--rule);
    border-radius: 2px;
    padding: 8px 11px;
    margin-top: 8px;
    cursor: pointer;
  }
  fieldset label.on {
    border-color: var(--accent);
    background: var(--accent-wash);
  }
  input {
    accent-color: var(--accent);
    align-self: center;
  }
  details {
    margin-top: 12px;
    border: 1px solid var(--rule);
    border-radius: 2px;
    padding: 7px 11px;
    font-size: 12.5px;
  }
  summary {
    cursor: pointer;
    font-weight: 600;
    font-size: 13px;
  }
  .kinds {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
  }
  .kinds legend,
  .with {
    color: var(--soft);
  }
  .kinds label {
    display: inline-flex;
    align-items: center;
    gap: 5px;
  }
  .days {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 4px 8px;
    align-items: center;
    margin: 8px 0;
  }
  .wide {
    width: 100%;
  }
  b {
    font-weight: 600;
  }
  small {
    grid-column: 2;
    color: var(--soft);
    font-size: 12px;
  }
  .go {
    display: flex;
    width: 100%;
    padding: 8px;
    margin-top: 14px;
    text-decoration: none;
  }
  .go + .go {
    margin-top: 8px;
  }
  p {
    font-size: 12px;
    margin-top: 12px;
  }
  @media (max-width: 900px) {
    aside {
      border-left: 0;
      border-top: 1px solid var(--rule);
    }
  }
</style>
