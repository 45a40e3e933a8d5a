<script lang="ts">
  import { DatePicker, parseDate, Popover, Portal } from '@skeletonlabs/skeleton-svelte';
  import CalendarDays from '@lucide/svelte/icons/calendar-days';
  import { dayText, readDay } from '$lib/day';
  import DayCalendar from './DayCalendar.svelte';

  interface Props {
    id: string;
    /** A day as `2026-03-12`; empty or null for none. */
    value: string | null;
    /** What the calendar is of, for those who hear it. */
    label: string;
    onchange: (day: string | null) => void;
    min?: string | null;
    max?: string | null;
    /** The day at which the calendar opens where none is set. */
    near?: string | null;
  }
  const { id, value, label, onchange, min = null, max = null, near = null }: Props = $props();

  let open = $state(false);
  /** What was typed and names no day, or none that is allowed here. */
  let wrong = $state<string | null>(null);

  function problem(day: string | null): string | null {
    if (day === null) return 'Write the day like 12 Mar 2026.';
    if (min && day < min) return `Not before ${dayText(min)}.`;
    if (max && day > max) return `Not after ${dayText(max)}.`;
    return null;
  }

  function typed(text: string): void {
    const day = readDay(text);
    wrong = text.trim() === '' ? null : problem(day);
    if (wrong === null) onchange(day);
  }

  function picked(day: string): void {
    wrong = null;
    open = false;
    onchange(day);
  }

  const shown = (day: string | null | undefined) => (day ? parseDate(day) : undefined);
</script>

<span class="day">
  <input
    {id}
    class="small-field"
    type="text"
    autocomplete="off"
    placeholder="12 Mar 2026"
    value={value ? dayText(value) : ''}
    aria-invalid={wrong !== null}
    aria-describedby={wrong === null ? undefined : `${id}-wrong`}
    onchange={(event) => typed(event.currentTarget.value)}
  />
  <Popover
    {open}
    onOpenChange={(details) => (open = details.open)}
    positioning={{ placement: 'bottom-end' }}
  >
    <Popover.Trigger class="pick" aria-label="Calendar: {label}"
      ><CalendarDays size={14} aria-hidden="true" /></Popover.Trigger
    >
    <Portal>
      <Popover.Positioner class="over">
        <Popover.Content class="pop-sheet" aria-label={label}>
          <DatePicker
            inline
            locale="en-GB"
            startOfWeek={1}
            min={shown(min)}
            max={shown(max)}
            defaultFocusedValue={shown(value || near)}
            value={value ? [parseDate(value)] : []}
            onValueChange={(details) => {
              const [day] = details.value;
              if (day) picked(day.toString());
            }}
          >
            <DayCalendar />
          </DatePicker>
        </Popover.Content>
      </Popover.Positioner>
    </Portal>
  </Popover>
  {#if wrong}<small id="{id}-wrong" role="alert">{wrong}</small>{/if}
</span>

<style>
  .day {
    position: relative;
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    min-width: 0;
  }
  input {
    padding-right: 30px;
  }
  input[aria-invalid='true'] {
    border-color: var(--alarm);
  }
  .day :global(.pick) {
    position: absolute;
    right: 3px;
    top: 2px;
    padding: 4px 5px;
    color: var(--soft);
    cursor: pointer;
  }
  .day :global(.pick:hover) {
    color: var(--accent);
  }
  small {
    color: var(--alarm);
    font-size: 12px;
  }
</style>
