<script lang="ts">
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { ContactRow } from '$lib/service/api/protocol';
  import { Choosing } from '$lib/stations/read/choosing.svelte';
  import { answersFor } from '$lib/state/latest';
  import RecordTable from './RecordTable.svelte';

  const { open, query }: { open: OpenCase; query: string } = $props();
  const choosing = new Choosing(() => open, 'contacts');
  let all = $state.raw<ContactRow[]>([]);
  const answers = answersFor(() => open);

  $effect(() => {
    void open.version;
    answers(open.desk.contacts(), (found) => (all = found));
  });

  const rows = $derived(
    all.filter((row) =>
      [row.name, ...row.phones, ...row.emails, row.organisation ?? '']
        .join(' ')
        .toLowerCase()
        .includes(query.trim().toLowerCase())
    )
  );
</script>

<RecordTable
  chosen={choosing.ids}
  onchoose={choosing.choose}
  {rows}
  columns={['Name', 'Numbers', 'Mail', 'Organisation', 'Note', 'Source']}
  template="minmax(130px, 1.2fr) minmax(140px, 1.4fr) minmax(120px, 1.2fr) 1fr 1fr minmax(90px, 1fr)"
  sorters={[
    (row) => row.name,
    (row) => row.phones[0] ?? null,
    (row) => row.emails[0] ?? null,
    (row) => row.organisation,
    (row) => row.note,
    (row) => row.source
  ]}
  label="Contacts"
  empty={all.length === 0
    ? 'No contacts were found in the sources of this case. Names can be imported under People, from contact cards or a table.'
    : 'No contact matches the search.'}
>
  {#snippet cells(row)}
    <span role="cell">{row.name}</span>
    <span role="cell">{row.phones.join(', ')}</span>
    <span role="cell">{row.emails.join(', ')}</span>
    <span role="cell">{row.organisation ?? ''}</span>
    <span role="cell" class="soft">{row.note ?? ''}</span>
    <span role="cell" class="soft">{row.source}</span>
  {/snippet}
</RecordTable>
