<script lang="ts">
  import { TZDate } from '@date-fns/tz';
  import { DatePicker, parseDate, Popover, Portal } from '@skeletonlabs/skeleton-svelte';
  import CalendarDays from '@lucide/svelte/icons/calendar-days';
  import { format } from 'date-fns';
  import { readDay } from '$lib/day';
  import DayCalendar from '../../ui/DayCalendar.svelte';

  interface Props {
    from: number | null;
    to: number | null;
    zone: string;
    /** When the messages were deleted, by the intake; null where nobody knows. */
    deletedAt?: number | null;
    /** The last day of the case, at which the calendar opens. */
    last?: number | null;
  }
  let {
    from = $bindable(),
    to = $bindable(),
    zone,
    deletedAt = null,
    last = null
  }: Props = $props();

  const DAY = 86_400_000;
  let open = $state(false);

  const isoOf = (at: number): string => format(new TZDate(at, zone), 'yyyy-MM-dd');
  const shown = (at: number): string => format(new TZDate(at, zone), 'd MMM yyyy');
  const value = $derived(
    from === null && to === null ? [] : [from ?? to!, to ?? from!].map((at) => parseDate(isoOf(at)))
  );
  const title = $derived.by(() => {
    if (from === null && to === null) return 'All days';
    if (from === null) return `until ${shown(to!)}`;
    if (to === null) return `from ${shown(from)}`;
    return isoOf(from) === isoOf(to) ? shown(from) : `${shown(from)} – ${shown(to)}`;
  });

  interface Day {
    year: number;
    month: number;
    day: number;
  }

  /** Midnight that begins a day in the case's zone, some days on. */
  function start({ year, month, day }: Day, on = 0): number {
    return new TZDate(year, month - 1, day + on, zone).getTime();
  }

  function set([first, last]: readonly Day[]): void {
    from = first ? start(first) : null;
    to = first ? start(last ?? first, 1) - 1 : null;
  }

  function before(days: number): void {
    if (deletedAt === null) return;
    from = deletedAt - days * DAY;
    to = deletedAt;
    open = false;
  }

  function all(): void {
    from = to = null;
    open = false;
  }

  function typed(which: 'from' | 'to', text: string): void {
    const read = readDay(text);
    const day = read === null ? null : parseDate(read);
    if (which === 'from') from = day ? start(day) : null;
    else to = day ? start(day, 1) - 1 : null;
  }
</script>

<Popover
  {open}
  onOpenChange={(details) => (open = details.open)}
  positioning={{ placement: 'bottom-end' }}
>
  <Popover.Trigger class="action quiet days-trigger" aria-label="Days shown: {title}">
    <CalendarDays size={14} aria-hidden="true" />{title}
  </Popover.Trigger>
  <Portal>
    <Popover.Positioner class="over">
      <Popover.Content class="pop-sheet" aria-label="Days shown">
        <div class="fields">
          <label
            >From <input
              class="field"
              placeholder="1 Mar 2026"
              value={from === null ? '' : shown(from)}
              onchange={(event) => typed('from', event.currentTarget.value)}
            /></label
          >
          <label
            >to <input
              class="field"
              placeholder="31 Mar 2026"
              value={to === null ? '' : shown(to)}
              onchange={(event) => typed('to', event.currentTarget.value)}
            /></label
          >
        </div>
        <DatePicker
          inline
          selectionMode="range"
          locale="en-GB"
          startOfWeek={1}
          timeZone={zone}
          defaultFocusedValue={parseDate(isoOf(to ?? from ?? deletedAt ?? last ?? Date.now()))}
          {value}
          onValueChange={(details) => set(details.value)}
        >
          <DayCalendar />
        </DatePicker>
        <div class="presets">
          {#if deletedAt !== null}
            <button class="action quiet" onclick={() => before(30)}
              >Last 30 days before the deletion</button
            >
            <button class="action quiet" onclick={() => before(7)}>Last 7 days before it</button>
          {:else}
            <p class="soft">
              Write in the intake when the messages were deleted: then the days before it can be
              shown at once.
            </p>
          {/if}
          <button class="action quiet" onclick={all}>All days</button>
        </div>
      </Popover.Content>
    </Popover.Positioner>
  </Portal>
</Popover>

<style>
  .fields {
    display: flex;
    gap: 10px;
    margin-bottom: 10px;
  }
  .fields label {
    display: flex;
    align-items: center;
    gap: 6px;
    color: var(--soft);
  }
  .fields input {
    width: 112px;
  }
  .presets {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-top: 10px;
    border-top: 1px solid var(--rule);
    padding-top: 10px;
  }
  .presets p {
    margin: 0;
    font-size: 12px;
  }
</style>
