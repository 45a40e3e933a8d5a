<script lang="ts">
  import type { RedactionRow } from '$lib/service/api/protocol';

  interface Props {
    row: RedactionRow;
    ontake: () => void;
    ongo?: () => void;
  }
  const { row, ontake, ongo }: Props = $props();
</script>

<li>
  <span class="bar">{row.code}</span>
  {#if ongo && row.goTo}
    <button class="text" onclick={ongo} title="Go to the message">{row.text}</button>
  {:else}
    <span class="text">{row.text}</span>
  {/if}
  <button class="take" onclick={ontake} aria-label="Remove the redaction of {row.text}"
    >Remove</button
  >
</li>

<style>
  li {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr) auto;
    gap: 8px;
    align-items: center;
    padding: 3px 0;
    border-bottom: 1px solid var(--hair);
    overflow-wrap: anywhere;
    font-size: 12px;
  }
  .bar {
    background: var(--ink);
    color: var(--paper);
    font: 600 11px/1.5 var(--font-code);
    padding: 0 8px;
  }
  .text {
    text-align: left;
  }
  button {
    cursor: pointer;
  }
  .take {
    color: var(--soft);
    text-decoration: underline;
  }
</style>
