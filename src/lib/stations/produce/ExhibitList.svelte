<script lang="ts">
  import GripVertical from '@lucide/svelte/icons/grip-vertical';
  import { dragHandle, dragHandleZone, type DndEvent } from 'svelte-dnd-action';
  import type { ExhibitChange } from '$core/exhibits';
  import { withDays } from '$lib/day';
  import { bytes, count, plural } from '$lib/format';
  import type { ExhibitRow, ExhibitView } from '$lib/service/api/protocol';
  import ExhibitDetails from './ExhibitDetails.svelte';
  import ExhibitLists from './ExhibitLists.svelte';

  interface Props {
    view: ExhibitView;
    current: ExhibitRow | null;
    /** Page on which each exhibit begins, by its label; empty where no page is set. */
    starts: Record<string, number>;
    pages: number;
    readHref: string;
    onselect: (row: ExhibitRow) => void;
    onchange: (change: ExhibitChange) => void;
    ongo: (row: ExhibitRow) => void;
  }
  const { view, current, starts, pages, readHref, onselect, onchange, ongo }: Props = $props();

  /** While one is dragged the order is the pointer's. */
  let dragged = $state.raw<ExhibitRow[] | null>(null);
  const rows = $derived(dragged ?? view.rows);

  $effect(() => {
    void view;
    dragged = null;
  });

  /** Exhibits that can have lines around them, and the context that all of them have. */
  const threads = $derived(rows.filter(({ kind }) => kind === 'lines'));
  const common = $derived(
    threads.every(({ context }) => context === threads[0]!.context) ? threads[0]?.context : null
  );

  function consider({ detail }: CustomEvent<DndEvent<ExhibitRow>>): void {
    dragged = detail.items;
  }

  function finalize({ detail }: CustomEvent<DndEvent<ExhibitRow>>): void {
    // Until the answer is there the list stays as it was put.
    dragged = detail.items;
    onchange({ type: 'arrange', entries: detail.items.map(({ id }) => id) });
  }

  function pagesOf(i: number): string {
    const start = starts[`E${i + 1}`];
    if (start === undefined) return '';
    const next = rows.findIndex((_, at) => at > i && starts[`E${at + 1}`] !== undefined);
    const end = next < 0 ? pages : Math.max(start, starts[`E${next + 1}`]! - 1);
    return next < 0 || end === start ? `p. ${start}` : `p. ${start} to ${end}`;
  }

  const WORDS = {
    lines: 'message',
    calls: 'call',
    contacts: 'contact',
    files: 'file',
    gaps: 'gap'
  };

  function amount({ kind, count: n, of }: ExhibitRow): string {
    if (of === null) return plural(n, WORDS[kind]);
    return n === of
      ? `whole conversation, ${plural(n, 'message')}`
      : `${count(n)} of ${plural(of, 'message')}`;
  }
</script>

<section aria-label="Exhibit list">
  <ExhibitLists {view} {onchange} />
  {#if rows.length > 0}
    <p class="facts">
      {plural(rows.length, 'exhibit')} · {plural(view.lines, 'message')} · {plural(
        view.files,
        'file'
      )}{#if view.bytes > 0}, {bytes(view.bytes)}{/if}
    </p>
    {#if threads.length > 1}
      <p class="facts all">
        <label for="context-all">Context for all exhibits</label>
        <input
          class="small-field"
          id="context-all"
          type="number"
          min="0"
          max="50"
          value={common}
          placeholder="differs"
          onchange={(event) =>
            onchange({
              type: 'context',
              entry: null,
              lines: event.currentTarget.valueAsNumber || 0
            })}
        />
        messages before and after
      </p>
    {/if}
  {/if}
  <div
    use:dragHandleZone={{
      items: rows,
      flipDurationMs: 120,
      dropTargetStyle: {},
      dragDisabled: view.rows.length < 2
    }}
    onconsider={consider}
    onfinalize={finalize}
    aria-label="Exhibits in their order"
  >
    {#each rows as row, i (row.id)}
      <article class:on={row.id === current?.id}>
        <span class="no">
          <span
            use:dragHandle
            class="grip"
            aria-label="Move exhibit E{i + 1}, {row.name}"
            title="Drag, or press Enter and the arrow keys"><GripVertical size={13} /></span
          >E{i + 1}</span
        >
        <button class="name" onclick={() => onselect(row)} aria-pressed={row.id === current?.id}
          ><bdi>{row.name}</bdi></button
        >
        <span class="mono">{pagesOf(i)}</span>
        <span class="facts">
          {amount(row)}{#if row.span}&nbsp;· {withDays(row.span)}{/if}{#if row.notLive > 0}&nbsp;·
            <em>{count(row.notLive)} deleted or changed</em
            >{/if}{#if row.files > 0 && row.kind === 'lines'}&nbsp;·
            {plural(row.files, 'file')}{/if}{#if row.redacted > 0}&nbsp;·
            {plural(row.redacted, 'redaction')}{/if}{#if row.context > 0}&nbsp;· with {plural(
              row.context,
              'message'
            )} of context{/if}
        </span>
        {#if row.id === current?.id}
          <ExhibitDetails {row} {onchange} ongo={() => ongo(row)} />
        {/if}
      </article>
    {/each}
  </div>
  {#if rows.length === 0}
    <p class="soft none">
      Nothing is selected yet. In <a href={readHref}>Read</a>, select messages with <kbd>x</kbd>,
      days, search hits or whole conversations; calls, contacts, media, files and gaps by their
      boxes.
    </p>
  {/if}
</section>

<style>
  .all {
    display: flex;
    align-items: center;
    gap: 6px;
  }
  .all input {
    width: 64px;
  }
  section {
    padding: 14px 18px;
    overflow: auto;
    border-right: 1px solid var(--rule);
  }
  .facts {
    color: var(--soft);
    font-size: 12px;
  }
  article {
    border: 1px solid var(--rule);
    background: var(--sheet);
    margin-top: 9px;
    padding: 8px 10px 8px 8px;
    display: grid;
    grid-template-columns: 38px minmax(0, 1fr) auto;
    gap: 0 6px;
    border-radius: 2px;
  }
  article.on {
    box-shadow: inset 3px 0 var(--accent);
  }
  .no {
    font: 11px/2 var(--font-code);
    color: var(--soft);
    white-space: nowrap;
  }
  .grip {
    display: inline-block;
    vertical-align: middle;
    color: var(--soft);
    cursor: grab;
  }
  .mono {
    font-size: 11px;
    color: var(--soft);
  }
  .name {
    font: 600 14px var(--font-text);
    text-align: left;
    cursor: pointer;
    overflow-wrap: anywhere;
  }
  article .facts {
    grid-column: 2 / 4;
  }
  .facts em {
    font-style: normal;
    color: var(--ochre);
  }
  .none {
    margin-top: 12px;
  }
  .none a {
    color: var(--accent);
  }
  @media (max-width: 900px) {
    section {
      border: 0;
    }
  }
</style>
