import { COPY_TITLES, spanOf, type Intake, type Plan, type Span, type Times } from '$core/plan';

/** A row of the chart of routes; moments in milliseconds since 1970. */
export interface ChartRow {
  title: string;
  kind: 'lost' | 'copy';
  from: number;
  to: number;
  verdict: Plan['routes'][number]['verdict'] | null;
}

export interface RouteChartData {
  rows: ChartRow[];
  from: number;
  to: number;
  /** When the messages were deleted; null where nothing is known of it. */
  deleted: Span | null;
  now: number;
}

const DAY = 86_400_000;
/** Days that are shown before the first and after the last known moment. */
const MARGIN = 3 * DAY;

/** What the chart of an intake shows: the lost span, then each copy in the order of its route. */
export function chartOf(intake: Intake, plan: Plan, times: Times): RouteChartData {
  const { now } = times;
  const copies = new Map(intake.copies.map((copy) => [copy.id, copy]));
  const moments = plan.routes.map((route) => {
    const copy = copies.get(route.copy)!;
    return { route, copy, at: copy.at === null ? now : spanOf(copy.at).to };
  });
  const isKnown = intake.deleted.from !== null || intake.deleted.to !== null || times.keep !== null;
  const deleted = isKnown ? within(times.deleted, now) : null;
  const known = [
    times.sent.from,
    times.sent.to,
    deleted?.from,
    ...moments.map(({ at }) => at),
    now
  ].filter((at) => at !== undefined && Number.isFinite(at)) as number[];
  const from = Math.min(...known) - MARGIN;
  const to = Math.max(...known) + MARGIN;
  const sent = {
    from: Math.max(from, times.sent.from),
    to: Math.min(times.sent.to, deleted?.to ?? now)
  };
  return {
    rows: [
      { title: 'lost messages sent', kind: 'lost', ...sent, verdict: null },
      ...moments.map(({ route, copy, at }): ChartRow => ({
        title: copy.name ?? COPY_TITLES[copy.kind],
        kind: 'copy',
        from,
        to: at,
        verdict: route.verdict
      }))
    ],
    from,
    to,
    deleted,
    now
  };
}

/** A span whose open ends are drawn as far as is sensible. */
function within({ from, to }: Span, now: number): Span {
  const end = Number.isFinite(to) ? to : now;
  return { from: Number.isFinite(from) ? from : end - 30 * DAY, to: end };
}
