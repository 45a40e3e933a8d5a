<script lang="ts">
  import { withDays } from '$lib/day';
  import { plural } from '$lib/format';
  import type { ProfileTrial } from '$lib/service/api/protocol';

  const { trial }: { trial: ProfileTrial | null } = $props();
</script>

<aside aria-label="Messages that this mapping gives" aria-live="polite">
  {#if trial?.error}
    <p class="alarm">{trial.error}</p>
  {:else if trial && trial.total === 0}
    <p class="soft">This mapping gives no messages. Select a column that holds the text.</p>
  {:else if trial}
    <h2>{plural(trial.total, 'message')} <small>newest first</small></h2>
    <ol>
      {#each trial.lines as line, i (i)}
        <li class={line.side}>
          <span class="time">{withDays(line.time)}</span>
          <span class="who">{line.sender} <em>in {line.room || 'no conversation'}</em></span>
          <p>{line.body}</p>
        </li>
      {/each}
    </ol>
  {/if}
</aside>

<style>
  aside {
    overflow: auto;
    background: var(--sheet);
    padding: 14px 20px;
  }
  h2 {
    font-size: 16px;
  }
  small {
    font: 12px var(--font-plain);
    color: var(--soft);
  }
  ol {
    list-style: none;
    margin: 8px 0 0;
    padding: 0;
  }
  li {
    display: grid;
    grid-template-columns: 140px minmax(0, 1fr);
    gap: 0 12px;
    padding: 6px 0;
    border-bottom: 1px solid var(--hair);
  }
  .time {
    font: 11px/1.8 var(--font-code);
    color: var(--soft);
    grid-row: 1 / 3;
  }
  .who {
    font-variant: small-caps;
    color: var(--soft);
  }
  .who em {
    font: 11.5px var(--font-plain);
  }
  .own .who {
    color: var(--accent);
  }
  p {
    margin: 0;
    font: 14.5px/1.45 var(--font-text);
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  .alarm {
    color: var(--alarm);
  }
</style>
