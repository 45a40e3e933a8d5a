<script lang="ts">
  import { withDays } from '$lib/day';
  import { count } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { CallRow } from '$lib/service/api/protocol';
  import { Choosing } from '$lib/stations/read/choosing.svelte';
  import { answersFor } from '$lib/state/latest';
  import RecordTable from './RecordTable.svelte';

  const { open }: { open: OpenCase } = $props();
  const choosing = new Choosing(() => open, 'calls');
  let rows = $state.raw<CallRow[]>([]);
  const answers = answersFor(() => open);

  $effect(() => {
    void open.version;
    answers(open.desk.calls(), (found) => (rows = found));
  });

  function lasted(seconds: number | null): string {
    if (seconds === null) return '';
    const minutes = Math.floor(seconds / 60);
    return minutes > 0
      ? `${count(minutes)} min ${Math.round(seconds % 60)} s`
      : `${Math.round(seconds)} s`;
  }
</script>

<RecordTable
  chosen={choosing.ids}
  onchoose={choosing.choose}
  {rows}
  columns={['Day', 'Time', 'With', 'Number', 'Call', 'Lasted', 'Source']}
  template="96px 76px minmax(120px, 1.3fr) minmax(120px, 1fr) 90px 90px minmax(100px, 1fr)"
  sorters={[
    (row) => `${row.day} ${row.time}`,
    (row) => row.time,
    (row) => row.name,
    (row) => row.address,
    (row) => row.direction,
    (row) => row.seconds,
    (row) => row.source
  ]}
  label="Calls"
  empty="No call log was found in the sources of this case. Phones keep calls in a store of their own: a backup or a copy of the file system has it, a message database alone does not."
>
  {#snippet cells(row)}
    <span role="cell">{withDays(row.day)}</span>
    <span role="cell">{row.time}</span>
    <span role="cell">{row.name}</span>
    <span role="cell" class="soft">{row.address === row.name ? '' : row.address}</span>
    <span role="cell">{row.direction}</span>
    <span role="cell">{lasted(row.seconds)}</span>
    <span role="cell" class="soft">{row.source}</span>
  {/snippet}
</RecordTable>
