<script lang="ts">
  import { bytes, count, duration } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import ProgressBar from './ProgressBar.svelte';

  const { open }: { open: OpenCase } = $props();

  const job = $derived(open.job);
  const copy = $derived(open.copying);
  const copied = $derived(copy ? Math.floor((100 * copy.done) / Math.max(1, copy.total)) : 0);
  const percent = $derived(Math.round((job?.fraction ?? 0) * 100));
</script>

{#snippet ends(isPaused: boolean, goOn: () => void, pause: () => void, stop: () => void)}
  <span class="end">
    {#if isPaused}
      <button class="action" onclick={goOn}>Go on</button>
    {:else}
      <button class="action" onclick={pause}>Pause</button>
    {/if}
    <button class="action" onclick={stop}>Stop</button>
  </span>
{/snippet}

{#if copy}
  <section class="strip" aria-label="Copy that is being taken">
    <b>Copy: {copy.name}</b>
    <ProgressBar label="Progress of the copy" value={copied} />
    <span class="facts">
      {copied} % · {bytes(copy.done)} of {bytes(copy.total)}
      {#if copy.state === 'paused'}· paused
      {:else if copy.state === 'waiting'}· the vault asks to wait, {duration(copy.secondsLeft ?? 1)}
      {:else}
        {#if copy.rate !== null}· {bytes(copy.rate)}/s{/if}
        {#if copy.secondsLeft !== null}· {duration(copy.secondsLeft)}{/if}
        · SHA-256 of each part
      {/if}
    </span>
    {@render ends(
      copy.state === 'paused',
      () => open.desk.resumeCopy(),
      () => open.desk.pauseCopy(),
      () => open.desk.stopCopy()
    )}
  </section>
{/if}
{#if job}
  <section class="strip" aria-label="Examination in progress">
    <b>Examining {job.depth} depth, {job.name}</b>
    <ProgressBar label="Progress of the examination" value={percent} />
    <span class="facts">
      {percent} % · {job.paused ? 'paused' : job.stage}
      {#if job.rate !== null}· {bytes(job.rate)}/s{/if}
      {#if job.secondsLeft !== null && !job.paused}· {duration(job.secondsLeft)}{/if}
      · found {count(job.found)}
      {#if job.resumed}· resumed after a reload{/if}
    </span>
    {@render ends(
      job.paused,
      () => open.desk.resumePass(),
      () => open.desk.pausePass(),
      () => open.stopPass()
    )}
  </section>
{:else if open.adding}
  <section class="strip" aria-label="Source being added">
    <b>Adding {open.adding.name}</b>
    <ProgressBar label="Progress of adding" value={Math.round(open.adding.fraction * 100)} />
    <span class="facts">reading and hashing, {Math.round(open.adding.fraction * 100)} %</span>
  </section>
{/if}

<style>
  .strip {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 16px;
    min-height: 36px;
    padding: 3px 20px;
    border-top: 1px solid var(--rule);
    background: var(--sheet);
    color: var(--soft);
    font-size: 12px;
    flex: none;
  }
  b {
    color: var(--ink);
    font-weight: 600;
  }
  .facts {
    font-variant-numeric: tabular-nums;
  }
  .end {
    margin-left: auto;
    display: flex;
    gap: 8px;
  }
  .end .action {
    padding: 2px 10px;
  }
</style>
