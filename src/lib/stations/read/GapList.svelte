<script lang="ts">
  import { withDays } from '$lib/day';
  import { count } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { GapRow } from '$lib/service/api/protocol';
  import { Choosing } from '$lib/stations/read/choosing.svelte';
  import { answersFor } from '$lib/state/latest';
  import RecordTable from './RecordTable.svelte';

  interface Props {
    open: OpenCase;
    ongo: (correspondent: string, message: string) => void;
  }
  const { open, ongo }: Props = $props();
  const choosing = new Choosing(() => open, 'gaps');
  let rows = $state.raw<GapRow[]>([]);
  const answers = answersFor(() => open);
  const listed = $derived(rows.map((row) => ({ ...row, id: row.key, state: 'live' as const })));

  $effect(() => {
    void open.version;
    answers(open.desk.gaps(), (found) => (rows = found));
  });
</script>

<RecordTable
  chosen={choosing.ids}
  onchoose={choosing.choose}
  rows={listed}
  columns={['Missing', 'After', 'Before', 'With', 'How it shows', 'Source', 'Line']}
  template="56px 226px 226px minmax(80px, 0.6fr) minmax(210px, 2.2fr) minmax(100px, 0.9fr) 52px"
  label="Gaps"
  empty="No message is known to be missing: no row number is skipped, no answer or count leads nowhere."
  glyph="┄"
>
  {#snippet cells(row)}
    <span role="cell"><b>{count(row.count)}</b></span>
    <span role="cell">{withDays(row.from)}</span>
    <span role="cell">{withDays(row.to)}</span>
    <span role="cell" class:soft={row.name === null}>{row.name ?? 'not known'}</span>
    <span role="cell" class="soft" title={row.reason}>{row.reason}</span>
    <span role="cell" class="soft">{row.source}</span>
    <span role="cell">
      {#if row.goTo}
        {@const { correspondent, message } = row.goTo}
        <button
          class="go"
          aria-label="Go to the message beside this gap"
          onclick={() => ongo(correspondent, message)}>Go to</button
        >
      {/if}
    </span>
  {/snippet}
</RecordTable>

<style>
  .go {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
</style>
