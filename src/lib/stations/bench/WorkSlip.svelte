<script lang="ts">
  import type { DeviceView, NeedView } from '$bench/devices';
  import type { CopyDepth } from '$core/acquire';
  import { bytes, errorText, plural } from '$lib/format';
  import type { BenchDesk } from '$lib/stations/bench/bench.svelte';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { saveBlob } from '$lib/state/save';
  import type { CopyRecord, SourceRecord } from '$lib/storage/schema';
  import CardExchange from './CardExchange.svelte';
  import Choices from '../../ui/Choices.svelte';
  import DepthTable from './DepthTable.svelte';
  import DeviceQuestion from './DeviceQuestion.svelte';
  import EarlierCopies from './EarlierCopies.svelte';
  import FaultPicker from './FaultPicker.svelte';
  import NeedList from './NeedList.svelte';
  import PutBack from './PutBack.svelte';
  import SnapshotList from './SnapshotList.svelte';

  interface Props {
    device: DeviceView;
    bench: BenchDesk;
    open: OpenCase;
    /** Its place in the route plan; null where it is not part of it. */
    route: number | null;
    intakeHref: string;
    sourcesHref: string;
    /** A copy became a source. */
    oncopied: (source: SourceRecord) => void;
  }
  const { device, bench, open, route, intakeHref, sourcesHref, oncopied }: Props = $props();

  const KIND_WORDS: Record<string, string> = {
    messages: 'messages',
    calls: 'calls',
    contacts: 'contacts',
    media: 'pictures and files',
    apps: 'other apps'
  };
  const DEPTH_WORDS: Record<CopyDepth, string> = {
    logical: 'logical',
    'file-system': 'file system',
    physical: 'physical'
  };
  /** Bytes that the browser should have beyond those of the copy. */
  const SPARE = 1 << 20;

  let wanted = $state<CopyDepth>('file-system');
  let kinds = $state<string[]>([]);
  let snapshots = $state<ReadonlySet<string>>(new Set());
  let room = $state<number | null>(null);
  let broken = $state.raw<CopyRecord[]>([]);
  /** How the last copy went, where it went well. */
  let ended = $state('');

  const depth = $derived(
    device.depths.find((row) => row.depth === wanted && row.why === null)?.depth ?? 'logical'
  );
  const row = $derived(device.depths.find((one) => one.depth === depth)!);
  const copying = $derived(open.copying?.device === device.id ? open.copying : null);
  const end = $derived(open.copyEnd?.device === device.id ? open.copyEnd : null);
  const needs = $derived([...device.needs[depth], roomNeed(row.bytes, room)]);
  const waits = $derived(needs.filter(({ state }) => state !== 'holds' && state !== 'not-needed'));
  const hint = $derived(
    device.key === null
      ? null
      : `the ${device.kind === 'vault' ? 'password' : device.keyName} is ${device.key.split('\n')[0]}.`
  );
  const codeHint = $derived(
    device.kind === 'vault' ? `the code is ${device.key?.split('\n')[1]}.` : hint
  );
  const taken = $derived(
    (open.summary?.sources ?? []).filter(({ copied }) => copied?.device === device.id)
  );
  /** A store is rebuilt from the apps' own files: raw storage holds it without its name. */
  const examined = $derived(
    taken.findLast(
      ({ pass, copied }) => pass.state === 'done' && copied?.depth === 'file-system'
    ) ?? null
  );
  const refusal = $derived(bench.refusals[device.id] ?? null);

  $effect(() => {
    // Asked again whenever a copy ends, and for another device.
    void [open.copying === null, open.version, device.id];
    void refresh(device.id);
  });

  async function refresh(id: string): Promise<void> {
    try {
      broken = (await open.desk.brokenCopies()).filter((copy) => copy.device === id);
      const { quota, usage } = await navigator.storage.estimate();
      room = quota === undefined ? null : quota - (usage ?? 0);
    } catch (error) {
      open.failure = errorText(error);
    }
  }

  function roomNeed(size: number, free: number | null): NeedView {
    const holds = free === null || free > size + SPARE;
    const told = free === null ? bytes(size) : `${bytes(size)}; ${bytes(free)} are free here`;
    const title = 'Room for the copy';
    return { id: 'room', title, state: holds ? 'holds' : 'missing', told, mend: null };
  }

  function order(): string[] | null {
    const parts = depth === 'physical' ? [] : [...kinds];
    for (const id of snapshots) if (depth !== 'logical') parts.push(`snapshot ${id}`);
    return parts.length === 0 ? null : parts;
  }

  async function take(depth: CopyDepth, kinds: string[] | null): Promise<void> {
    const name = `${device.name}, ${DEPTH_WORDS[depth]}`;
    const { id } = device;
    ended = '';
    try {
      const source = await open.desk.takeCopy({ device: id, name, depth, kinds });
      // What was put on for it is taken off again.
      if (device.kind === 'handset' && source && depth !== 'logical')
        await bench.act(id, 'take-off');
      if (!source) return;
      ended = 'copied, verified, and added to this case';
      oncopied(source);
    } catch (error) {
      open.failure = errorText(error);
    } finally {
      await bench.look();
    }
  }

  /** Does something that the case may have its reasons to refuse. */
  async function attempt(work: () => Promise<void>): Promise<void> {
    try {
      await work();
    } catch (error) {
      open.failure = errorText(error);
    }
  }

  const throwAway = (copy: CopyRecord): Promise<void> =>
    attempt(async () => {
      await open.desk.throwAwayCopy(copy.key);
      await refresh(device.id);
    });

  const save = (source: SourceRecord): Promise<void> =>
    attempt(async () => saveBlob(await open.desk.saveCopy(source.id), `${source.name}.zip`));

  const examine = (source: SourceRecord): Promise<void> =>
    attempt(() => open.desk.sources.examine(source.id, 'freed'));

  async function undo(): Promise<void> {
    if (await bench.act(device.id, 'undo-put')) await open.desk.log.putBack(device.name, 0);
  }

  function toggleSnapshot(id: string): void {
    const next = new Set(snapshots);
    if (!next.delete(id)) next.add(id);
    snapshots = next;
  }
</script>

<div class="slip">
  <header>
    <h1>{device.name}</h1>
    <span class="soft">{device.heading}</span>
    {#if route !== null}<a href={intakeHref}>route {route} of the plan</a>{/if}
  </header>

  <div class="main">
    <section aria-label="Before it can be copied">
      <h2>Before it can be copied</h2>
      <NeedList
        {needs}
        keyName={device.keyName}
        {hint}
        refusal={device.question ? null : refusal}
        onmend={(act, value) => bench.act(device.id, act, value)}
      />
    </section>
    <section aria-label="How deep">
      <h2>How deep</h2>
      <DepthTable depths={device.depths} selected={depth} onselect={(one) => (wanted = one)} />
    </section>
    {#if device.snapshots && depth === 'file-system'}
      <section aria-label="Snapshots">
        <h2>Which snapshots <small>none selected: all</small></h2>
        <SnapshotList
          snapshots={device.snapshots}
          dropped={device.dropped}
          chosen={snapshots}
          onchoose={toggleSnapshot}
        />
      </section>
    {/if}
    {#if device.kinds.length > 0 && depth !== 'physical'}
      <section aria-label="Kinds of data">
        <h2>Only some kinds <small>none selected: all</small></h2>
        <Choices
          label="Kinds of data"
          options={device.kinds.map((kind) => [kind, KIND_WORDS[kind] ?? kind] as const)}
          value={kinds}
          many
          onchange={(value) => (kinds = value)}
        />
      </section>
    {/if}
    {#if end}<p class="end" role="alert">{end.message}</p>{/if}
    <div class="begin">
      <button
        class="action main"
        disabled={waits.length > 0 || open.copying !== null}
        onclick={() => take(depth, order())}>Begin the copy</button
      >
      <span class="soft" role="status">
        {#if copying}
          being copied: {bytes(copying.done)} of {bytes(copying.total)}, each part verified
        {:else if open.copying}
          another device is being copied
        {:else if ended}
          {ended}
        {:else if waits.length > 0}
          waits for: {waits[0]!.title.toLowerCase()}{waits.length > 1
            ? `, and ${plural(waits.length - 1, 'more thing')}`
            : ''}
        {:else}
          {bytes(row.bytes)}, kept in this browser and added to this case
        {/if}
      </span>
    </div>
    {#if device.id === 'card' && open.exchange.length > 0}
      <CardExchange exchange={open.exchange} />
    {/if}
    {#if device.takesMessages}
      <PutBack
        putBack={device.putBack}
        onrebuild={examined ? () => open.desk.rebuiltStore(examined.id) : null}
        onput={async (store, isDry) => {
          const report = await bench.put(device.id, store, isDry);
          if (!isDry && report.added > 0) await open.desk.log.putBack(device.name, report.added);
          return report;
        }}
        onundo={undo}
      />
    {/if}
  </div>

  <aside>
    {#if device.question}
      <DeviceQuestion
        question={device.question}
        hint={codeHint}
        {refusal}
        onanswer={(isAllowed, value) => bench.act(device.id, isAllowed ? 'allow' : 'refuse', value)}
      />
    {/if}
    <section aria-label="What was done">
      <h2>What was done</h2>
      {#if device.done.length === 0}
        <p class="soft">nothing yet</p>
      {:else}
        <ol>
          {#each device.done.slice(-12) as { at, text }, i (i)}
            <li><time datetime={at}>{new Date(at).toLocaleTimeString('en-GB')}</time>{text}</li>
          {/each}
        </ol>
      {/if}
    </section>
    <section aria-label="Copies from here">
      <h2>Copies from here</h2>
      <EarlierCopies
        sources={taken}
        {broken}
        isBusy={open.copying !== null}
        onresume={(copy) => take(copy.depth, copy.kinds)}
        onthrow={throwAway}
        onsave={save}
        onexamine={examine}
      />
      {#if taken.length > 0}<a href={sourcesHref}
          >To the sources: {plural(open.summary?.sources.length ?? 0, 'source')}</a
        >{/if}
    </section>
    <FaultPicker {device} onarm={(fault) => bench.act(device.id, 'arm', fault)} />
  </aside>
</div>

<style>
  .slip {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 300px;
    gap: 14px 30px;
    padding: 18px 26px 26px 30px;
    align-content: start;
  }
  header {
    grid-column: 1 / -1;
    display: flex;
    flex-wrap: wrap;
    align-items: baseline;
    gap: 4px 14px;
  }
  header a {
    margin-left: auto;
  }
  a {
    color: var(--accent);
  }
  h1 {
    font-size: 22px;
  }
  h2 {
    font-size: 15px;
    margin-bottom: 3px;
  }
  h2 small {
    font: 400 12px var(--font-plain);
    color: var(--soft);
    margin-left: 6px;
  }
  .main,
  aside {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 18px;
    align-content: start;
    min-width: 0;
  }
  .begin {
    position: sticky;
    bottom: 0;
    background: var(--sheet);
    border-top: 1px solid var(--rule);
    padding: 9px 0;
    display: flex;
    flex-wrap: wrap;
    gap: 6px 10px;
    align-items: center;
  }
  .end {
    margin: 0;
    border-left: 3px solid var(--alarm);
    padding: 4px 12px;
    color: var(--alarm);
  }
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    display: grid;
    grid-template-columns: 64px minmax(0, 1fr);
    padding: 4px 0;
    border-bottom: 1px solid var(--hair);
    font: 11.5px/1.4 var(--font-code);
  }
  time {
    color: var(--soft);
  }
  aside p {
    margin: 2px 0;
  }
  @container (max-width: 820px) {
    .slip {
      grid-template-columns: minmax(0, 1fr);
      padding: 14px 16px;
    }
    /* What the device asks stands before what waits for the answer. */
    aside:has(> :global(section[data-asks])) {
      order: -1;
    }
    header {
      order: -2;
    }
  }
</style>
