<script lang="ts">
  import { onDestroy, onMount } from 'svelte';
  import { page } from '$app/state';
  import type { CopyKind } from '$core/plan';
  import { errorText } from '$lib/format';
  import BenchList from '$lib/stations/bench/BenchList.svelte';
  import WorkSlip from '$lib/stations/bench/WorkSlip.svelte';
  import { BenchDesk } from '$lib/stations/bench/bench.svelte';
  import { useCase } from '$lib/state/desk.svelte';
  import { IntakeDesk } from '$lib/state/intake.svelte';
  import type { SourceRecord } from '$lib/storage/schema';

  const open = useCase();
  const bench = new BenchDesk();
  const intake = new IntakeDesk(page.params.id!, (error) => (open.failure = errorText(error)));

  /** The device that a kind of copy is taken from. */
  const DEVICE_KINDS: Partial<Record<CopyKind, string>> = {
    card: 'card-reader',
    'cloud-backup': 'vault',
    'cloud-sync': 'vault'
  };

  let chosen = $state<string | null>(null);
  /** The copy of the plan that led here. */
  const led = $derived(page.url.searchParams.get('copy'));

  const devices = $derived(bench.devices ?? []);
  const selected = $derived(
    devices.find(({ id }) => id === chosen) ?? ledTo() ?? devices[0] ?? null
  );

  onMount(() => {
    bench.start();
    intake.load().catch((error: unknown) => (open.failure = errorText(error)));
  });
  onDestroy(() => {
    bench.stop();
    intake.flush();
  });

  /** The device that the copy of the plan names, or one of its kind. */
  function ledTo(): (typeof devices)[number] | undefined {
    const copy = intake.answers.copies?.find(({ id }) => id === led);
    if (!copy) return undefined;
    const kind = DEVICE_KINDS[copy.kind] ?? 'handset';
    return (
      devices.find(({ name }) => name === copy.name) ?? devices.find((one) => one.kind === kind)
    );
  }

  /** The copy of the plan that stands for a device. */
  function copyOf(name: string, id: string): string | null {
    const copies = intake.answers.copies ?? [];
    const own = copies.find((copy) => copy.name === name)?.id;
    return own ?? (id === ledTo()?.id ? led : null);
  }

  function routeOf(name: string, id: string): number | null {
    const { outcome } = intake;
    const copy = copyOf(name, id);
    if (!outcome.ok || copy === null) return null;
    return outcome.plan.routes.find((route) => route.copy === copy)?.rank ?? null;
  }

  function linked(source: SourceRecord): void {
    const copy = selected && copyOf(selected.name, selected.id);
    if (copy) intake.link(copy, source.id);
  }
</script>

<div class="wrap">
  <BenchList
    {devices}
    selected={selected?.id ?? null}
    onselect={(id) => (chosen = id)}
    onreset={() => bench.reset()}
  />
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <main aria-label="Work slip" tabindex="0">
    {#if bench.problem}<p class="problem" role="alert">{bench.problem}</p>{/if}
    {#if selected}
      {#key selected.id}
        <WorkSlip
          device={selected}
          {bench}
          {open}
          route={routeOf(selected.name, selected.id)}
          intakeHref="/case/{page.params.id}/intake"
          sourcesHref="/case/{page.params.id}/sources"
          oncopied={linked}
        />
      {/key}
    {:else if !bench.problem}
      <p class="soft">Looking at what is on the bench …</p>
    {/if}
  </main>
</div>

<style>
  .wrap {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 300px minmax(0, 1fr);
  }
  main {
    container-type: inline-size;
    overflow: auto;
    background: var(--sheet);
  }
  p {
    padding: 20px 30px 0;
    margin: 0;
  }
  .problem {
    color: var(--alarm);
  }
  @media (max-width: 900px) {
    .wrap {
      display: block;
      overflow: auto;
    }
  }
</style>
