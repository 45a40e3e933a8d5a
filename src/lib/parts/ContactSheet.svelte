<script lang="ts">
  import FileVideo from '@lucide/svelte/icons/film';
  import ImageOff from '@lucide/svelte/icons/image-off';
  import Mic from '@lucide/svelte/icons/mic';
  import { bytes, count, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { FileRow } from '$lib/worker/protocol';
  import { Choosing } from '$lib/state/choosing.svelte';
  import MediaPicture from './MediaPicture.svelte';

  const { open, query }: { open: OpenCase; query: string } = $props();
  const choosing = new Choosing(() => open, 'files');
  let anchor = $state<string | null>(null);

  function choose(row: FileRow, toHere: boolean): void {
    const from = toHere ? rows.findIndex(({ key }) => key === anchor) : -1;
    const at = rows.indexOf(row);
    const range = from < 0 ? [row] : rows.slice(Math.min(from, at), Math.max(from, at) + 1);
    choosing.choose(
      range.map(({ key }) => key),
      from >= 0 || !choosing.ids.has(row.key)
    );
    anchor = row.key;
  }

  const STEP = 120;
  let rows = $state.raw<FileRow[]>([]);
  let total = $state(0);
  let shown = $state(STEP);

  $effect(() => {
    void open.version;
    void open.desk.files('media', query, 0, shown).then((page) => {
      rows = page.rows;
      total = page.total;
    });
  });

  const days = $derived(byDay(rows));

  function byDay(list: FileRow[]): { day: string; rows: FileRow[] }[] {
    const out: { day: string; rows: FileRow[] }[] = [];
    for (const row of list) {
      const last = out.at(-1);
      if (last?.day === row.day) last.rows.push(row);
      else out.push({ day: row.day, rows: [row] });
    }
    return out;
  }

  function kindOf(mime: string | null): 'image' | 'video' | 'audio' {
    const [kind] = (mime ?? '').split('/');
    return kind === 'video' || kind === 'audio' ? kind : 'image';
  }
</script>

<main aria-label="Media">
  {#if total === 0}
    <p class="none">
      {query.trim() === ''
        ? 'No pictures, videos or sound recordings were found in the sources of this case.'
        : 'No media match the search.'}
    </p>
  {/if}
  <div class="days">
    {#each days as { day, rows: list } (day)}
      <section>
        <h2>
          {day} <small>{plural(list.length, 'file')}</small>
          <button
            class="day"
            onclick={() =>
              choosing.choose(
                list.map(({ key }) => key),
                true
              )}
            aria-label="Choose the files of {day}">Choose day</button
          >
        </h2>
        <ul>
          {#each list as row (row.key)}
            <li class={row.state} class:chosen={choosing.ids.has(row.key)}>
              <div class="picture">
                {#if kindOf(row.mime) === 'image' && (!row.missing || row.thumbnail)}
                  <MediaPicture {row} {open} />
                {:else if row.missing}<ImageOff size={26} strokeWidth={1.3} aria-hidden="true" />
                {:else if kindOf(row.mime) === 'audio'}<Mic
                    size={26}
                    strokeWidth={1.3}
                    aria-hidden="true"
                  />
                {:else}<FileVideo size={26} strokeWidth={1.3} aria-hidden="true" />{/if}
              </div>
              <label class="pick">
                <input
                  type="checkbox"
                  checked={choosing.ids.has(row.key)}
                  aria-label="Choose {row.name}"
                  onclick={(event) => {
                    event.preventDefault();
                    choose(row, event.shiftKey);
                  }}
                />
                <b title={row.path}>{row.name}</b>
              </label>
              <small>
                {row.mime ?? 'unknown'}{row.bytes === null ? '' : `, ${bytes(row.bytes)}`}
                {#if row.copies > 0}, {row.copies + 1} copies{/if}
              </small>
              {#if row.missing}<small class="missing"
                  >{row.thumbnail
                    ? 'the file is missing, its small picture is kept'
                    : 'missing'}</small
                >{/if}
              <small>{row.at?.slice(11) ?? ''}</small>
            </li>
          {/each}
        </ul>
      </section>
    {/each}
  </div>
  {#if rows.length < total}
    <button class="action" onclick={() => (shown += STEP)}
      >Show {count(Math.min(STEP, total - rows.length))} more of {count(total)}</button
    >
  {/if}
</main>

<style>
  main {
    flex: 1;
    min-height: 0;
    overflow: auto;
    padding: 12px 20px 24px;
    background: var(--sheet);
  }
  .days {
    display: flex;
    flex-wrap: wrap;
    gap: 0 26px;
  }
  section {
    max-width: 100%;
  }
  h2 {
    font-size: 14.5px;
    border-bottom: 1px solid var(--rule);
    padding: 6px 0 3px;
    margin-bottom: 10px;
  }
  small {
    display: block;
    font: 11.5px var(--font-plain);
    color: var(--soft);
  }
  h2 small {
    display: inline;
    margin-left: 8px;
  }
  ul {
    list-style: none;
    margin: 0 0 14px;
    padding: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 14px;
  }
  li {
    width: 142px;
  }
  .picture {
    aspect-ratio: 4 / 3;
    display: grid;
    place-items: center;
    border: 1px solid var(--rule);
    background: var(--paper);
    color: var(--soft);
    overflow: hidden;
    margin-bottom: 5px;
  }
  b {
    display: block;
    font: 600 12.5px var(--font-plain);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .pick {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr);
    gap: 6px;
    align-items: center;
    cursor: pointer;
  }
  .pick input {
    accent-color: var(--accent);
  }
  .chosen .picture {
    outline: 3px solid var(--accent);
    outline-offset: -1px;
  }
  .day {
    font: 12px var(--font-plain);
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
    margin-left: 8px;
  }
  .missing {
    color: var(--plum);
  }
  .none {
    padding: 40px 0;
    font: 15px var(--font-text);
    color: var(--soft);
  }
</style>
