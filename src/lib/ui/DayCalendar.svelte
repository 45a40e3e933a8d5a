<script lang="ts">
  import { DatePicker } from '@skeletonlabs/skeleton-svelte';
  import ChevronLeft from '@lucide/svelte/icons/chevron-left';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
</script>

<!-- The days of a month; stands inside a date picker. -->
<DatePicker.Context>
  {#snippet children(picker)}
    <div class="calendar">
      <DatePicker.View view="day">
        <DatePicker.ViewControl class="months">
          <DatePicker.PrevTrigger class="action quiet"
            ><ChevronLeft size={14} /></DatePicker.PrevTrigger
          >
          <DatePicker.RangeText />
          <DatePicker.NextTrigger class="action quiet"
            ><ChevronRight size={14} /></DatePicker.NextTrigger
          >
        </DatePicker.ViewControl>
        <DatePicker.Table>
          <DatePicker.TableHead>
            <DatePicker.TableRow>
              {#each picker().weekDays as day, i (i)}
                <DatePicker.TableHeader>{day.short}</DatePicker.TableHeader>
              {/each}
            </DatePicker.TableRow>
          </DatePicker.TableHead>
          <DatePicker.TableBody>
            {#each picker().weeks as week, i (i)}
              <DatePicker.TableRow>
                {#each week as day (day.toString())}
                  <DatePicker.TableCell value={day}>
                    <DatePicker.TableCellTrigger>{day.day}</DatePicker.TableCellTrigger>
                  </DatePicker.TableCell>
                {/each}
              </DatePicker.TableRow>
            {/each}
          </DatePicker.TableBody>
        </DatePicker.Table>
      </DatePicker.View>
    </div>
  {/snippet}
</DatePicker.Context>

<style>
  .calendar :global([data-part='view-control']) {
    display: flex;
    justify-content: space-between;
    align-items: center;
    font-weight: 600;
    margin-bottom: 4px;
  }
  .calendar :global(.action) {
    padding: 2px 6px;
  }
  .calendar :global(table) {
    border-collapse: collapse;
    width: 100%;
  }
  .calendar :global(th) {
    color: var(--soft);
    font-weight: 400;
    font-size: 12px;
    padding: 2px;
  }
  .calendar :global(td) {
    padding: 0;
    text-align: center;
  }
  .calendar :global([data-part='table-cell-trigger']) {
    padding: 4px 6px;
    cursor: pointer;
    font-variant-numeric: tabular-nums;
  }
  .calendar :global([data-part='table-cell-trigger'][data-outside-range]) {
    color: var(--soft);
  }
  .calendar :global([data-part='table-cell-trigger'][data-in-range]) {
    background: var(--accent-wash);
  }
  .calendar :global([data-part='table-cell-trigger'][data-range-start]),
  .calendar :global([data-part='table-cell-trigger'][data-range-end]),
  .calendar :global([data-part='table-cell-trigger'][data-selected]) {
    background: var(--accent);
    color: var(--on-accent);
  }
</style>
