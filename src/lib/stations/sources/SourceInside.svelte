<script lang="ts">
  import type { CandidateFacts, Store } from '$core/records';
  import { bytes, count, date, plural } from '$lib/format';
  import type { SourceRecord } from '$lib/storage/schema';
  import { SOURCE_KINDS } from './kinds';

  /** @prop zone of the case, in which days are told */
  const { source, zone }: { source: SourceRecord; zone: string } = $props();

  const TITLES: Record<string, string> = {
    'telephony-provider': 'telephony provider',
    'handle-chat': 'handle–chat',
    'session-message-media': 'session–message–media chat',
    'jid-chat': 'jid chat',
    'jid-chat-flat': 'jid chat, single table',
    'hashed-tables': 'one table per conversation',
    'desktop-caller': 'desktop caller',
    'raw-contacts': 'raw contacts',
    'person-values': 'people with values',
    'call-table': 'call table',
    'call-records': 'call records',
    'call-flags': 'call table with flags',
    card: 'card',
    'text-log': 'text log'
  };

  const inside = $derived(source.source?.inside);
  const packages = $derived(inside?.packages ?? []);
  const unread = $derived((inside?.candidates ?? []).filter((candidate) => !candidate.read));
  /** Those in which a table could be messages, and nothing says that it is something else. */
  const offered = $derived(unread.filter((candidate) => candidate.fit > 0 || isOpen(candidate)));
  const silent = $derived(unread.filter((candidate) => !offered.includes(candidate)));
  const facts = $derived(factsOf());
  const marks = $derived(marksOf(source.stores));
  const limits = $derived(limitsOf(source.stores));

  /** Of several stores each says which one it speaks of; what all say is said once. */
  function limitsOf(stores: Store[]): { store: string; text: string }[] {
    const texts = new Map<string, string[]>();
    for (const store of stores) {
      const text = store.limits.join(' ');
      const name = store.path.slice(store.path.lastIndexOf('/') + 1);
      if (text !== '') texts.set(text, [...(texts.get(text) ?? []), name]);
    }
    const several = stores.length > 1;
    return [...texts].map(([text, names]) => ({
      text,
      store: several && names.length < stores.length ? `${names.join(', ')}: ` : ''
    }));
  }

  function factsOf(): [string, string][] {
    const device = source.source?.device;
    if (!device) return [];
    const list: [string, string | null][] = [
      ['device', device.name],
      ['model', device.model],
      ['system', device.system],
      ['serial', device.serial],
      ['number', device.phoneNumber],
      ['backed up', device.backedUpAt === null ? null : date(device.backedUpAt, zone)]
    ];
    return list.filter((fact): fact is [string, string] => fact[1] !== null);
  }

  function titleOf(store: Store): string {
    if (store.profile.startsWith('worked-out:')) return 'worked out';
    const own = store.profile.startsWith('saved:');
    const title = own && inside?.candidates.find(({ path }) => path === store.path)?.profile;
    return title || (TITLES[store.profile] ?? store.profile);
  }

  /** Of several copies of one store the one with the newest line and the one with the most. */
  function marksOf(stores: Store[]): Record<string, string> {
    const marks: Record<string, string> = {};
    const total = (store: Store): number => Object.values(store.counts).reduce((a, b) => a + b, 0);
    for (const store of stores) {
      const copies = stores.filter(
        (other) => other.profile === store.profile && sameStem(other.path, store.path)
      );
      if (copies.length < 2) continue;
      const newest = Math.max(...copies.map((copy) => copy.span?.to ?? 0));
      const fullest = Math.max(...copies.map(total));
      const words = [
        (store.span?.to ?? 0) === newest ? 'newest' : '',
        total(store) === fullest ? 'fullest' : ''
      ].filter((word) => word !== '');
      marks[store.id] = words.join(', ') || 'copy';
    }
    return marks;
  }

  /** Copies carry the same name with something before or behind it. */
  function sameStem(a: string, b: string): boolean {
    const stem = (path: string): string =>
      path
        .slice(path.lastIndexOf('/') + 1)
        .toLowerCase()
        .replace(/\d+/g, '')
        .replace(/[.\s_()-]*(bak|old|copy|backup|orig|prev|tmp)[.\s_()-]*/g, '')
        .replace(/[\s_()-]+/g, '')
        .split('.')[0]!;
    return stem(a) === stem(b);
  }

  function spanOf(store: Store): string {
    return store.span ? `${date(store.span.from, zone)} – ${date(store.span.to, zone)}` : '';
  }

  /** Databases can be looked into; cards and logs, of lines or of tables, have no pages. */
  function hasPages({ path }: Store): boolean {
    return inside?.candidates.some((candidate) => candidate.path === path) ?? false;
  }

  function insideLink(path: string): string {
    return `/case/${source.caseId}/inside?source=${source.id}&path=${encodeURIComponent(path)}`;
  }

  function deskLink(path: string, table?: string): string {
    const chosen = table === undefined ? '' : `&table=${encodeURIComponent(table)}`;
    return `/case/${source.caseId}/profile?source=${source.id}&path=${encodeURIComponent(path)}${chosen}`;
  }

  const asking = $derived((inside?.candidates ?? []).filter(({ asks, read }) => asks && read));

  function isOpen({ readings = [] }: CandidateFacts): boolean {
    return readings.some(({ against }) => against === null);
  }

  function reasonsOf(candidate: CandidateFacts): string {
    return candidate.reasons.join('; ');
  }
</script>

{#if facts.length > 0 || packages.length > 0}
  <dl>
    {#each facts as [label, value], i (i)}<div>
        <dt>{label}</dt>
        <dd>{value}</dd>
      </div>{/each}
    {#each packages.slice(0, 12) as pack, i (i)}
      <div>
        <dt>{SOURCE_KINDS[pack.kind] ?? pack.kind}</dt>
        <dd>
          {pack.path || source.name}{pack.lock ? ', locked' : `, ${plural(pack.files, 'file')}`}
        </dd>
      </div>
    {/each}
    {#if packages.length > 12}<div>
        <dt>further packages</dt>
        <dd>{count(packages.length - 12)}</dd>
      </div>{/if}
  </dl>
{/if}

{#if source.stores.length > 0}
  <div class="inside">
    <table>
      <thead>
        <tr>
          <th>Store</th><th>Reading profile</th><th>From – to</th><th class="n">live</th><th
            class="n">recently deleted</th
          ><th class="n">recovered</th><th class="n">fragments</th><th class="n"
            >earlier versions</th
          >
        </tr>
      </thead>
      <tbody>
        {#each source.stores as store (store.id)}
          <tr>
            <td class="mono path">
              {#if hasPages(store)}<a
                  href={insideLink(store.path)}
                  title="Look inside, page by page">{store.path}</a
                >{:else}{store.path}{/if}{#if marks[store.id]}&nbsp;<em class="copy"
                  >{marks[store.id]}</em
                >{/if}
            </td>
            <td>
              {#if hasPages(store)}
                <a href={deskLink(store.path)}>{titleOf(store)}</a>
              {:else}{titleOf(store)}{/if}, fit {store.fit}
            </td>
            <td class="span">{spanOf(store)}</td>
            <td class="n" data-of="live">{count(store.counts.live)}</td>
            <td class="n held tone" data-of="held">{count(store.counts.held)}</td>
            <td class="n recovered tone" data-of="recovered">{count(store.counts.recovered)}</td>
            <td class="n fragment tone" data-of="fragments">{count(store.counts.fragment)}</td>
            <td class="n earlier tone" data-of="earlier">{count(store.counts.earlier)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if limits.length > 0}
      <p class="why">
        <b>Limits of this result:</b>
        {#each limits as { store, text }, i (i)}
          <span><i class="mono">{store}</i> {text}</span>
        {/each}
      </p>
    {/if}
  </div>
{/if}

{#snippet readingsOf(candidate: CandidateFacts)}
  <ol class="readings" aria-label="Tables of {candidate.path} that may hold messages">
    {#each candidate.readings ?? [] as reading, i (i)}
      <li>
        <b class="mono">{reading.table}</b>
        <span class="soft"
          >{count(reading.rows)}{reading.more ? ' or more' : ''} rows, fit {reading.fit}; {reading.against ??
            reading.reasons[0] ??
            ''}</span
        >
        <a class="action quiet" href={deskLink(candidate.path, reading.table)}>Check this reading</a
        >
        <ul>
          {#each reading.lines as line, n (n)}<li>
              <span class="soft">{date(line.at, zone)}</span>
              {line.text}
            </li>{/each}
        </ul>
      </li>
    {/each}
  </ol>
{/snippet}

{#if asking.length > 0}
  <ul class="offers" aria-label="Databases with an open question">
    {#each asking as candidate, i (i)}
      <li>
        <span class="mono path">{candidate.path}</span>
        <span class="soft">was read, but nothing in it shows which messages the owner wrote</span>
        <a class="action quiet" href={deskLink(candidate.path)}>Answer one question</a>
      </li>
    {/each}
  </ul>
{/if}

{#if offered.length > 0}
  <ul class="offers" aria-label="Databases that may hold messages">
    {#each offered as candidate, i (i)}
      <li title={reasonsOf(candidate)}>
        <span class="mono path">{candidate.path}</span>
        <span class="soft"
          >{bytes(candidate.bytes)}, holds texts with times, but nothing shows that they are
          messages</span
        >
        <a class="action quiet" href={deskLink(candidate.path)}>Open the profile desk</a>
        {#if candidate.readings}{@render readingsOf(candidate)}{/if}
      </li>
    {/each}
  </ul>
{/if}
{#if silent.length > 0}
  <details>
    <summary>{plural(silent.length, 'further database')} without messages</summary>
    <ul class="offers">
      {#each silent.slice(0, 200) as candidate, i (i)}
        <li>
          <span class="mono path">{candidate.path}</span>
          <span class="soft">{bytes(candidate.bytes)}</span>
          <a class="action quiet" href={deskLink(candidate.path)}>Open the profile desk</a>
          {#if candidate.readings}{@render readingsOf(candidate)}{/if}
        </li>
      {/each}
    </ul>
  </details>
{/if}

<style>
  dl {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 22px;
    margin: 0;
    padding: 7px 14px 7px 62px;
    border-top: 1px solid var(--hair);
    font-size: 12.5px;
  }
  dl div {
    display: flex;
    gap: 6px;
    min-width: 0;
  }
  dt {
    color: var(--soft);
    white-space: nowrap;
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
  .inside {
    border-top: 1px solid var(--hair);
    padding: 4px 14px 10px 62px;
    overflow-x: auto;
  }
  table {
    border-collapse: collapse;
    width: 100%;
    font-size: 12.5px;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--soft);
    padding: 5px 8px 3px 0;
    border-bottom: 1px solid var(--hair);
  }
  td {
    padding: 5px 8px 5px 0;
    border-bottom: 1px solid var(--hair);
    vertical-align: top;
  }
  .path {
    overflow-wrap: anywhere;
    min-width: 120px;
  }
  .span {
    white-space: nowrap;
    color: var(--soft);
  }
  .copy {
    font: 600 11px var(--font-plain);
    color: var(--accent);
    white-space: nowrap;
  }
  .n {
    text-align: right;
    font-variant-numeric: tabular-nums;
  }
  .tone {
    color: var(--tone);
  }
  .why {
    margin: 8px 0 0;
    color: var(--soft);
    font-size: 12.5px;
  }
  .why i {
    font-style: normal;
  }
  .why > span {
    display: block;
  }
  .why b {
    color: var(--ink);
    font-weight: 600;
  }
  .offers {
    list-style: none;
    margin: 0;
    padding: 6px 14px 8px 62px;
    border-top: 1px solid var(--hair);
    font-size: 12.5px;
  }
  .offers li {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 12px;
    padding: 2px 0;
  }
  .offers .action {
    text-decoration: none;
    margin-left: auto;
  }
  .readings {
    flex-basis: 100%;
    margin: 2px 0 6px;
    padding-left: 20px;
  }
  .readings ul {
    flex-basis: 100%;
    list-style: none;
    margin: 0;
    padding: 0 0 0 12px;
    border-left: 2px solid var(--hair);
  }
  .readings ul li {
    display: block;
    overflow-wrap: anywhere;
    font-family: var(--font-text);
  }
  details {
    border-top: 1px solid var(--hair);
    padding: 6px 14px 6px 62px;
    font-size: 12.5px;
  }
  details .offers {
    padding-left: 0;
    border: 0;
  }
  summary {
    cursor: pointer;
    color: var(--soft);
  }
  a {
    color: var(--accent);
  }
  /* Too narrow for columns: each store stands by itself, its counts below its name. */
  @media (max-width: 600px) {
    thead {
      display: none;
    }
    tr {
      display: flex;
      flex-wrap: wrap;
      gap: 0 12px;
      border-bottom: 1px solid var(--hair);
      padding: 4px 0;
    }
    td {
      border: 0;
      padding: 1px 0;
    }
    td:nth-child(-n + 3) {
      width: 100%;
    }
    td[data-of]::after {
      content: ' ' attr(data-of);
      color: var(--soft);
    }
    dl,
    .inside,
    .offers,
    details {
      padding-left: 14px;
    }
  }
</style>
