<script lang="ts">
  import { ROUTE_TITLES, STEPS, type Intake, type Plan, type Route } from '$core/plan';
  import { dayText } from '$lib/day';
  import { date, plural } from '$lib/format';
  import type { SourceRecord } from '$lib/storage/schema';

  interface Props {
    intake: Intake;
    plan: Plan;
    done: ReadonlySet<string>;
    /** Sources of the case, and which of them a copy became. */
    sources: readonly SourceRecord[];
    linked: Record<string, string>;
    sourcesHref: string;
    benchHref: string;
    ontick: (step: string) => void;
    onlink: (copy: string, source: string) => void;
  }
  const { intake, plan, done, sources, linked, sourcesHref, benchHref, ontick, onlink }: Props =
    $props();

  const WORDS: Record<Route['verdict'], string> = {
    contains: 'contains',
    'may-contain': 'may contain',
    'too-early': 'too early',
    'too-late': 'too late',
    cannot: 'cannot help'
  };

  /** Kinds of copies that are taken of a device. */
  const ON_BENCH = new Set<string>([
    'handset',
    'old-handset',
    'card',
    'cloud-backup',
    'cloud-sync'
  ]);

  const kinds = $derived(new Map(intake.copies.map((copy) => [copy.id, copy])));

  function daysLeft(until: string): string {
    const days = Math.floor((Date.parse(until) - Date.parse(intake.now)) / 86_400_000);
    return `${plural(Math.max(0, days), 'day')} left, until ${date(Date.parse(until))}`;
  }

  /** What a source that was examined gave. */
  function found(id: string): string {
    const source = sources.find((one) => one.id === id);
    if (!source) return 'its source is no longer in the case';
    if (source.pass.state !== 'done') return 'not examined yet';
    let [live, other] = [0, 0];
    for (const { counts } of source.stores) {
      live += counts.live;
      other += counts.held + counts.recovered + counts.fragment + counts.earlier;
    }
    return `${plural(live, 'message')} live, ${other.toLocaleString('en')} deleted or changed`;
  }
</script>

<ol>
  {#each plan.routes as route, i (i)}
    {@const copy = kinds.get(route.copy)!}
    {@const isUseful = route.verdict === 'contains' || route.verdict === 'may-contain'}
    <li class:dim={!isUseful}>
      <span class="rank">{route.rank}</span>
      <div>
        <h3>
          {ROUTE_TITLES[copy.kind]}{#if copy.name}: <bdi>{copy.name}</bdi>{/if}
        </h3>
        <p>{route.reasons.join(' ')}</p>
        {#if isUseful}
          {#if route.newerLost}<p>
              A restore would overwrite {route.newerLost.replace(/\d{4}-\d\d-\d\d/, dayText)};
              reading it does not.
            </p>{/if}
          <p class="soft">Needs {route.needs.join(', ')}. {route.risks.join(' ')}</p>
          <p class="steps">
            {#each STEPS[copy.kind] as step, n (n)}
              <label
                ><input
                  type="checkbox"
                  checked={done.has(`${route.copy}/${step}`)}
                  onchange={() => ontick(`${route.copy}/${step}`)}
                />{step}</label
              >
            {/each}
          </p>
        {/if}
        {#if linked[route.copy]}
          <p class="found">Actually found: {found(linked[route.copy]!)}.</p>
        {/if}
      </div>
      <div class="side">
        <b class={route.verdict}>{WORDS[route.verdict]}</b>
        <small>{route.changesEvidence ? 'changes the phone a little' : 'changes nothing'}</small>
        {#if route.doBefore}<small class="due">{daysLeft(route.doBefore)}</small>{/if}
        {#if isUseful}
          {#if !linked[route.copy]}
            {#if ON_BENCH.has(copy.kind)}
              <a class="action quiet" href="{benchHref}?copy={route.copy}">Take it on the bench</a>
            {/if}
            <a class="action quiet" href={sourcesHref}>Add it as a source</a>
          {/if}
          {#if sources.length > 0}
            <select
              class="small-field"
              aria-label="Source that this copy became"
              value={linked[route.copy] ?? ''}
              onchange={(event) => onlink(route.copy, event.currentTarget.value)}
            >
              <option value="">not taken yet</option>
              {#each sources as source (source.id)}
                <option value={source.id}>{source.name}</option>
              {/each}
            </select>
          {/if}
        {/if}
      </div>
    </li>
  {/each}
</ol>

<style>
  ol {
    list-style: none;
    margin: 10px 0 0;
    padding: 0;
  }
  li {
    display: grid;
    grid-template-columns: 34px minmax(0, 1fr) 190px;
    gap: 10px;
    border-top: 1px solid var(--rule);
    padding: 10px 0;
  }
  .rank {
    font: 600 18px var(--font-text);
    color: var(--accent);
  }
  h3 {
    font: 600 15px var(--font-text);
  }
  p {
    margin: 2px 0;
    font-size: 13px;
  }
  .dim {
    color: var(--soft);
  }
  .dim .rank {
    color: var(--soft);
  }
  .steps {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
  }
  .steps label {
    display: inline-flex;
    gap: 6px;
    align-items: center;
    cursor: pointer;
  }
  input {
    accent-color: var(--accent);
  }
  .found {
    color: var(--accent);
    font-weight: 600;
  }
  .side {
    display: grid;
    gap: 3px;
    align-content: start;
    justify-items: start;
    font-size: 12px;
  }
  .side b {
    font-size: 13px;
  }
  .side .contains {
    color: var(--accent);
  }
  small {
    color: var(--soft);
    font-size: 12px;
  }
  .due {
    color: var(--ochre);
  }
  .side .action {
    margin-top: 4px;
    padding: 2px 9px;
    text-decoration: none;
  }
  @media (max-width: 700px) {
    li {
      grid-template-columns: 26px minmax(0, 1fr);
    }
    .side {
      grid-column: 2;
    }
  }
</style>
