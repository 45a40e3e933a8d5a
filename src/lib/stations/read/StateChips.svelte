<script lang="ts">
  import { STATES, type Counts } from '$core/records';
  import { count } from '$lib/format';
  import { reading } from '$lib/state/reading.svelte';
  import { MARKS } from '../../ui/marks';
  import TipButton from '../../ui/TipButton.svelte';

  const { totals }: { totals: Counts } = $props();
</script>

<div class="chips" role="group" aria-label="States shown">
  {#each MARKS as { state, mark, word }, i (state)}
    {#if totals[state] > 0 || state === 'live' || state === 'recovered'}
      {@const on = reading.states.includes(state)}
      <TipButton
        tip="{on ? 'Hide' : 'Show'} {word} messages ({i + 1}); with shift, only these"
        class="chip {state} {on ? '' : 'off'}"
        aria-pressed={on}
        onclick={(event: MouseEvent) =>
          event.shiftKey ? reading.onlyState(state) : reading.toggleState(state)}
      >
        <span class="glyph" aria-hidden="true">{mark}</span>{word}
        {count(totals[state])}
      </TipButton>
    {/if}
  {/each}
  {#if reading.states.length < STATES.length}
    <button class="chip" onclick={() => reading.allStates()}>Show everything</button>
  {/if}
</div>

<style>
  .chips {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  .chips :global(.chip) {
    border: 1px solid var(--rule);
    border-radius: 99px;
    padding: 2px 10px;
    background: var(--sheet);
    color: var(--ink);
    font-size: 12px;
    cursor: pointer;
    white-space: nowrap;
  }
  .chips :global(.chip[aria-pressed='true']) {
    border-color: var(--soft);
  }
  .chips :global(.chip.off) {
    color: var(--soft);
    background: transparent;
    text-decoration: line-through;
  }
  .glyph {
    display: inline-block;
    width: 16px;
    text-align: center;
    color: var(--tone, inherit);
  }
</style>
