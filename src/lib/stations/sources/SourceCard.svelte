<script lang="ts">
  import Alert from '@lucide/svelte/icons/circle-alert';
  import Database from '@lucide/svelte/icons/database';
  import FileIcon from '@lucide/svelte/icons/file';
  import Folder from '@lucide/svelte/icons/folder';
  import { emptyCounts, messagesIn, STATES, type Counts, type PackageFacts } from '$core/records';
  import { bytes, count, date, plural, shortHash } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { SourceRecord } from '$lib/storage/schema';
  import GlanceLines from './GlanceLines.svelte';
  import { SOURCE_KINDS } from './kinds';
  import LockField from './LockField.svelte';
  import RemoveSource from './RemoveSource.svelte';
  import SourceDetails from './SourceDetails.svelte';
  import SourceInside from './SourceInside.svelte';
  import StateBar from './StateBar.svelte';

  interface Props {
    source: SourceRecord;
    open: OpenCase;
    selected: boolean;
    onselect: () => void;
    /** Something was typed into the field of a locked source. */
    ontyped: () => void;
  }
  const { source, open, selected, onselect, ontyped }: Props = $props();

  const busy = $derived(source.pass.state === 'running' || source.pass.state === 'queued');
  const size = $derived(source.files.reduce((sum, file) => sum + file.bytes, 0));
  const notes = $derived(source.source?.notes ?? []);
  const LOCKS = ['key-needed', 'wrong-key'];
  const errors = $derived(
    notes.filter((note) => note.level === 'error' && !LOCKS.includes(note.code))
  );
  const locked = $derived(busy ? [] : packagesOf().filter((pack) => pack.lock !== null));

  /** An examination that was stopped before it opened anything says less than the quick look. */
  function packagesOf(): PackageFacts[] {
    const found = source.source?.inside.packages ?? [];
    const seen = source.glance?.packages ?? [];
    return found.length === 0 && source.pass.state !== 'done' ? seen : found;
  }

  const others = $derived(notes.filter((note) => note.level !== 'error'));
  const failed = $derived(errors.length > 0 && source.stores.length === 0);
  const totals = $derived(
    source.stores.reduce<Counts>((sum, store) => {
      const counts = messagesIn(store);
      for (const state of Object.keys(counts) as (keyof Counts)[]) sum[state] += counts[state];
      return sum;
    }, emptyCounts())
  );
  /** Calls and contacts, which are none of the messages above. */
  const beside = $derived(
    source.stores.reduce(
      (sum, { others }) => sum + Object.values(others ?? {}).reduce((a, b) => a + b, 0),
      0
    )
  );
  const sums = $derived(new Map(source.files.map(({ path, sha256 }) => [path, sha256])));
  const unchanged = $derived(
    source.source !== null &&
      source.source.parts.every(({ path, sha256 }) => sums.get(path) === sha256)
  );
  /** Its bytes were read here and their checksums compared. */
  const isChecked = $derived(source.source !== null && !source.isAway);
  let editing = $state(false);
  let removing = $state(false);

  /** Checksums of more files than these are listed elsewhere. */
  const MOST_LISTED = 6;

  function kind(): string {
    const known = SOURCE_KINDS[source.source?.kind ?? source.glance?.kind ?? ''];
    return known ?? (source.files.length > 1 ? 'folder' : 'file');
  }
</script>

<article class:selected class:failed aria-label="Source {source.name}">
  <div class="head">
    <span class="icon" aria-hidden="true">
      {#if failed}<Alert
          size={26}
          strokeWidth={1.6}
        />{:else if (source.source?.kind ?? source.glance?.kind) === 'database'}<Database
          size={26}
          strokeWidth={1.5}
        />{:else if source.files.length > 1}<Folder size={26} strokeWidth={1.5} />{:else}<FileIcon
          size={26}
          strokeWidth={1.5}
        />{/if}
    </span>
    <div>
      <button class="name" onclick={onselect} aria-pressed={selected}>{source.name}</button>
      <small
        >{kind()}, {bytes(size)}{source.files.length > 1
          ? `, ${plural(source.files.length, 'file')}`
          : ''}</small
      >
    </div>
    <div class="mono soft">
      <span title={source.files.length > 1 ? 'Of the sorted list of its files' : undefined}
        >SHA-256 {shortHash(source.sum ?? '') || 'when examined'}</span
      >
      {#if isChecked}<span class:alarm={!unchanged}
          >{unchanged ? '✓ unchanged' : '✗ changed since it was added'}</span
        >{/if}
      <br />added {date(source.addedAt)}{source.isInPlace
        ? ', read where it lies'
        : source.isAway
          ? ', from a case file, evidence not here'
          : ''}
    </div>
    <div class="sum">
      {#if source.stores.length > 0}
        <StateBar counts={totals} />
        <span class="legend">
          {#if beside === 0 || STATES.some((state) => totals[state] > 0)}
            <b>{count(totals.live)}</b> live
            {#if totals.held > 0}· <b class="held tone">{count(totals.held)}</b> recently deleted{/if}
            {#if totals.recovered > 0}· <b class="recovered tone">{count(totals.recovered)}</b> recovered{/if}
            {#if totals.fragment > 0}· <b class="fragment tone">{count(totals.fragment)}</b>
              {totals.fragment === 1 ? 'fragment' : 'fragments'}{/if}
            {#if totals.earlier > 0}· <b class="earlier tone">{count(totals.earlier)}</b> earlier {totals.earlier ===
              1
                ? 'version'
                : 'versions'}{/if}
          {/if}
          {#if beside > 0}<span class="soft beside"
              >{plural(beside, 'call or contact', 'calls and contacts')}</span
            >{/if}
        </span>
      {:else if source.pass.state === 'none'}
        <span class="legend"
          >{source.glance === null
            ? 'being looked at'
            : locked.length > 0
              ? 'locked'
              : source.glance?.worth === false
                ? 'nothing to examine'
                : 'not examined yet'}</span
        >
      {:else if source.pass.state === 'running' || source.pass.state === 'queued'}
        <span class="legend"
          >{source.pass.state === 'queued' ? 'waiting to be examined' : 'being examined'}</span
        >
      {:else if locked.length > 0}
        <span class="legend">locked</span>
      {:else if !failed}
        <span class="legend">no messages found</span>
      {/if}
    </div>
  </div>

  {#if source.pass.state === 'none' && source.glance}<GlanceLines
      glance={source.glance}
      name={source.name}
    />{/if}
  {#each errors as note, i (i)}<p class="error">{note.text}</p>{/each}

  {#each locked as pack, i (`${i} ${pack.path}`)}<LockField
      sourceId={source.id}
      {pack}
      {open}
      {ontyped}
    />{/each}
  <SourceInside {source} zone={open.summary!.record.zone} />
  {#if others.length > 0}
    <ul class="notes">
      {#each others as note, i (i)}<li>{note.text}</li>{/each}
    </ul>
  {/if}
  {#if source.pass.state === 'stopped'}<p class="notes">
      The examination was stopped early. What it had found is kept; of a large store, that is its
      first lines.
    </p>{/if}
  {#if selected}
    <div class="foot">
      {#each source.files.slice(0, MOST_LISTED) as file, i (i)}<span class="mono soft"
          >{file.path} · {file.sha256 || 'hashed when it is examined'}</span
        >{/each}
      {#if source.files.length > MOST_LISTED}<span class="soft"
          >and {plural(source.files.length - MOST_LISTED, 'further file')}, listed under Files in
          Read</span
        >{/if}
      {#if source.files.length > 1 && source.sum}<span class="mono soft"
          >SHA-256 of the sorted list of its files · {source.sum}</span
        >{/if}
      <span class="end">
        <button class="action quiet" onclick={() => (editing = true)}>Name and zone</button>
        <button class="action quiet" onclick={() => (removing = true)}>Remove source</button>
      </span>
    </div>
  {/if}
</article>

{#if editing}<SourceDetails bind:shown={editing} {source} {open} />{/if}
{#if removing}<RemoveSource bind:shown={removing} {source} {open} />{/if}

<style>
  .beside {
    display: block;
  }
  article {
    border: 1px solid var(--rule);
    background: var(--sheet);
    margin-bottom: 10px;
    border-radius: 2px;
  }
  article.selected {
    box-shadow: inset 3px 0 var(--accent);
  }
  .head {
    display: grid;
    grid-template-columns: 34px minmax(150px, 250px) 1fr minmax(160px, 250px);
    gap: 0 14px;
    padding: 11px 14px;
    align-items: center;
  }
  .icon {
    color: var(--accent);
    line-height: 0;
  }
  .failed .icon {
    color: var(--alarm);
  }
  .name {
    display: block;
    font: 600 15.5px var(--font-text);
    text-align: left;
    cursor: pointer;
    overflow-wrap: anywhere;
  }
  small,
  .legend {
    padding: 0;
    color: var(--soft);
    font-size: 12px;
  }
  .legend b {
    font-weight: 600;
    color: var(--ink);
  }
  .legend .tone,
  .tone {
    color: var(--tone);
  }
  .alarm,
  .error {
    color: var(--alarm);
  }
  .error {
    margin: 0;
    padding: 0 14px 12px 62px;
  }
  .notes {
    margin: 8px 0 0;
    color: var(--soft);
    font-size: 12.5px;
  }
  .notes {
    padding: 0 14px 10px 62px;
    list-style: none;
  }
  .foot {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 14px;
    padding: 6px 14px 10px 62px;
    border-top: 1px solid var(--hair);
  }
  .foot .mono {
    overflow-wrap: anywhere;
    min-width: 0;
  }
  .foot .end {
    margin-left: auto;
    display: inline-flex;
    gap: 8px;
  }
  @media (max-width: 1180px) {
    .head {
      grid-template-columns: 34px 1fr;
      gap: 6px 14px;
    }
    .head > :nth-child(n + 3) {
      grid-column: 2;
    }
  }
  @media (max-width: 600px) {
    .foot,
    .notes,
    .error {
      padding-left: 14px;
    }
  }
</style>
