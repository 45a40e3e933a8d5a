<script lang="ts">
  import { onDestroy, onMount } from 'svelte';
  import { page } from '$app/state';
  import { FIRST_CHECKS, MUST_NOT } from '$core/plan';
  import { date, errorText } from '$lib/format';
  import CopyList from '$lib/stations/intake/CopyList.svelte';
  import IntakeForm from '$lib/stations/intake/IntakeForm.svelte';
  import RouteChart from '$lib/stations/intake/RouteChart.svelte';
  import RouteList from '$lib/stations/intake/RouteList.svelte';
  import { useCase } from '$lib/state/desk.svelte';
  import { IntakeDesk } from '$lib/state/intake.svelte';

  const open = useCase();
  const desk = new IntakeDesk(page.params.id!, (error) => {
    open.failure = `The intake was not kept: ${errorText(error)}`;
  });

  onMount(() => {
    desk.load().catch((error: unknown) => (open.failure = errorText(error)));
  });
  onDestroy(() => desk.flush());

  const outcome = $derived(desk.outcome);
  const urgent = $derived(
    outcome.ok ? outcome.plan.warnings.filter(({ code }) => code === 'backup-will-be-replaced') : []
  );
  const others = $derived(
    outcome.ok ? outcome.plan.warnings.filter(({ code }) => code !== 'backup-will-be-replaced') : []
  );
</script>

<svelte:window onpagehide={() => desk.flush()} />

<div class="wrap">
  <section aria-label="Intake">
    <h1>Intake</h1>
    <p class="soft">Nothing is required; “not known” is an answer too. Saved as you type.</p>
    {#if desk.isLoaded}
      <IntakeForm answers={desk.answers} onchange={(told, what) => desk.change(told, what)} />
      <CopyList
        copies={desk.answers.copies ?? []}
        onchange={(copies) => desk.change({ copies }, 'copies')}
      />
    {/if}
  </section>

  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <main aria-label="Route plan" tabindex="0">
    <div class="top">
      <h1>Route plan</h1>
      <span class="soft"
        >as of {date(Date.parse(desk.now))} ·
        <button class="link" onclick={() => window.print()}
          >print the instructions for the client</button
        ></span
      >
    </div>
    {#if !outcome.ok}
      <p class="problem" role="alert">The answers contradict each other: {outcome.problem}.</p>
    {:else}
      {#if outcome.plan.routes.length > 0 || outcome.intake.lost.sentFrom}
        <RouteChart intake={outcome.intake} plan={outcome.plan} times={outcome.times} />
      {/if}
      {#each urgent as { text }, i (i)}
        <p class="urgent" role="alert"><b>Before anything else:</b> {text}</p>
      {/each}
      {#if outcome.plan.routes.length === 0}
        <p class="none">
          Add the copies that exist: each becomes a route, ranked by what it can still hold.
        </p>
      {:else}
        <RouteList
          intake={outcome.intake}
          plan={outcome.plan}
          done={desk.done}
          sources={open.summary?.sources ?? []}
          linked={desk.sources}
          sourcesHref="/case/{page.params.id}/sources"
          benchHref="/case/{page.params.id}/bench"
          ontick={(step) => desk.tick(step)}
          onlink={(copy, source) => desk.link(copy, source)}
        />
      {/if}
      <div class="two">
        <section aria-label="First checks">
          <h2>First checks, which change nothing</h2>
          <ul>
            {#each FIRST_CHECKS as { id, look, shows } (id)}
              <li>
                <label
                  ><input
                    type="checkbox"
                    checked={desk.done.has(`check/${id}`)}
                    onchange={() => desk.tick(`check/${id}`)}
                  />
                  <span>{look} <small>{shows}</small></span></label
                >
              </li>
            {/each}
          </ul>
        </section>
        <section aria-label="Warnings">
          <h2>Warnings</h2>
          <ul>
            {#each others as { text }, i (i)}<li class="warning">{text}</li>{/each}
          </ul>
        </section>
      </div>
    {/if}
  </main>
</div>

<article class="client">
  <h1>Until the copy is taken</h1>
  <p>{open.summary?.record.name}, {date(Date.parse(desk.now))}</p>
  <ol>
    {#each MUST_NOT as text, i (i)}<li>{text}</li>{/each}
  </ol>
</article>

<style>
  .wrap {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 400px minmax(0, 1fr);
  }
  .wrap > section {
    padding: 18px 24px;
    overflow: auto;
    border-right: 1px solid var(--rule);
    background: var(--sheet);
  }
  main {
    padding: 18px 26px;
    overflow: auto;
  }
  h1 {
    font-size: 20px;
  }
  h2 {
    font-size: 15px;
    margin-bottom: 4px;
  }
  .top {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    flex-wrap: wrap;
    gap: 4px 14px;
    margin-bottom: 8px;
  }
  .link {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
  .urgent {
    background: var(--ochre-wash);
    border-left: 3px solid var(--ochre-bar);
    padding: 7px 12px;
    margin: 10px 0 0;
  }
  .problem {
    color: var(--alarm);
  }
  .none {
    font: 15px var(--font-text);
    color: var(--soft);
    padding: 24px 0;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 26px;
    border-top: 1px solid var(--rule);
    padding-top: 12px;
    margin-top: 4px;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
    font-size: 13px;
  }
  li {
    padding: 3px 0;
  }
  label {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr);
    gap: 8px;
    align-items: baseline;
    cursor: pointer;
  }
  input {
    accent-color: var(--accent);
  }
  small {
    color: var(--soft);
    font-size: 12px;
  }
  .warning {
    border-left: 2px solid var(--ochre-bar);
    padding-left: 8px;
    margin: 4px 0;
  }
  .client {
    display: none;
  }
  @media (max-width: 900px) {
    .wrap {
      display: block;
      overflow: auto;
    }
    .wrap > section {
      border: 0;
    }
    .two {
      grid-template-columns: 1fr;
    }
  }
  @media print {
    .wrap {
      display: none;
    }
    .client {
      display: block;
      padding: 12mm;
      font: 13pt/1.5 var(--font-text);
    }
    .client ol {
      list-style: decimal;
      padding-left: 8mm;
    }
    :global(.frame > header) {
      display: none;
    }
  }
</style>
