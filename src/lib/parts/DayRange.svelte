<script lang="ts">
  import { TZDate } from '@date-fns/tz';
  import { format } from 'date-fns';

  interface Props {
    from: number | null;
    to: number | null;
    zone: string;
  }
  let { from = $bindable(), to = $bindable(), zone }: Props = $props();

  const first = $derived(from === null ? '' : format(new TZDate(from, zone), 'yyyy-MM-dd'));
  const last = $derived(to === null ? '' : format(new TZDate(to, zone), 'yyyy-MM-dd'));

  /** Midnight that begins a day in the case's zone. */
  function dayStart(text: string): number | null {
    const [year, month, day] = text.split('-').map(Number);
    if (!year || !month || !day) return null;
    return new TZDate(year, month - 1, day, zone).getTime();
  }

  function setLast(text: string): void {
    const [year, month, day] = text.split('-').map(Number);
    to = year && month && day ? new TZDate(year, month - 1, day + 1, zone).getTime() - 1 : null;
  }
</script>

<div class="range">
  <label
    >from <input
      type="date"
      class="field"
      value={first}
      onchange={(event) => (from = dayStart(event.currentTarget.value))}
    /></label
  >
  <label
    >to <input
      type="date"
      class="field"
      value={last}
      onchange={(event) => setLast(event.currentTarget.value)}
    /></label
  >
  {#if from !== null || to !== null}
    <button
      class="action quiet"
      onclick={() => {
        from = null;
        to = null;
      }}>All days</button
    >
  {/if}
</div>

<style>
  .range {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px;
    color: var(--soft);
    font-size: 12px;
  }
  .field {
    padding: 1px 6px;
    font-size: 12px;
    background: var(--sheet);
  }
  .action {
    padding: 1px 8px;
  }
</style>
