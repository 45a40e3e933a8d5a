<script lang="ts">
  import { fileKind } from '$lib/stations/read/file-kinds';
  import { DELETED_WORDS } from '$lib/stations/read/file-words';
  import { withDays } from '$lib/day';
  import { bytes, errorText, plural, shortHash } from '$lib/format';
  import { viewer } from '$lib/state/viewer.svelte';
  import { saveBlob } from '$lib/state/save';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { FileFacet, FileRow } from '$lib/service/api/protocol';
  import { Choosing } from '$lib/stations/read/choosing.svelte';
  import { answersFor } from '$lib/state/latest';
  import RecordTable from './RecordTable.svelte';

  interface Props {
    open: OpenCase;
    facet: FileFacet;
    query: string;
  }
  const { open, facet, query }: Props = $props();
  const choosing = new Choosing(() => open, 'files');

  /** As many as a table can hold at once without slowing the page. */
  const MOST = 200_000;
  let rows = $state.raw<(FileRow & { id: string })[]>([]);
  const answers = answersFor(() => open);

  $effect(() => {
    void open.version;
    answers(open.desk.files(facet, query, 0, MOST), (page) => {
      rows = page.rows.map((row) => ({ ...row, id: row.key }));
    });
  });

  async function save(row: FileRow): Promise<void> {
    try {
      const blob = await open.desk.fileBlob(row.sourceId, row.path);
      if (!blob)
        open.failure = `${row.name} is not available: its source is not kept in this browser, or its key must be entered again.`;
      else saveBlob(blob, row.name);
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

<RecordTable
  chosen={choosing.ids}
  onchoose={choosing.choose}
  {rows}
  columns={['Path', 'Kind', 'Size', 'Time', 'SHA-256', 'Source', '']}
  template="minmax(220px, 2.6fr) minmax(90px, 0.8fr) 84px 160px 136px minmax(90px, 0.8fr) 96px"
  sorters={[
    (row) => row.path,
    (row) => fileKind(row.mime),
    (row) => row.bytes,
    (row) => row.at,
    (row) => row.sha256,
    (row) => row.source
  ]}
  label={facet === 'documents' ? 'Documents' : 'Files'}
  empty={query.trim() === ''
    ? 'No such files were found in the sources of this case. They come with folders, archives and backups; a message database alone brings none.'
    : 'No file matches the search. A pattern works too: * stands for any letters, ? for one, as in *.db.'}
>
  {#snippet cells(row)}
    <span role="cell" title={row.path}
      >{#if row.deletion}<small class="gone" title="Found: {row.deletion.how}."
          >{DELETED_WORDS[row.deletion.contents]}</small
        >&ensp;{/if}{row.path}{#if row.copies > 0}&nbsp;<small class="soft"
          >and {plural(row.copies, 'more copy', 'more copies')}</small
        >{/if}{#if row.labels.length > 0 || row.note}
        <small class="noted" title={row.note}
          >{row.labels.length > 0 ? row.labels.join(', ') : 'note'}</small
        >{/if}</span
    >
    <span role="cell" class="soft" title={row.mime}>{fileKind(row.mime)}</span>
    <span role="cell">{row.bytes === null ? '' : bytes(row.bytes)}</span>
    <span role="cell">{row.at === null ? 'unknown' : withDays(row.at)}</span>
    <span role="cell" class="mono soft">{row.sha256 ? shortHash(row.sha256) : ''}</span>
    <span role="cell" class="soft">{row.source}</span>
    <span role="cell">
      {#if row.missing}<em>missing</em>{:else}<button
          class="link"
          onclick={() => viewer.open([row])}
          aria-label="Open {row.name}">Open</button
        >
        <button class="link" onclick={() => save(row)} aria-label="Save {row.name}">Save</button
        >{/if}
    </span>
  {/snippet}
</RecordTable>

<style>
  .noted {
    background: var(--accent-wash);
    color: var(--ink);
    border-radius: 3px;
    padding: 0 6px;
  }
  .link {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
  .gone,
  em {
    color: var(--plum);
    font-style: normal;
  }
</style>
