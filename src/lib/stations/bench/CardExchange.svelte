<script lang="ts">
  import type { Exchange } from '$core/acquire';

  const { exchange }: { exchange: readonly Exchange[] } = $props();
</script>

<details>
  <summary>Commands sent to the card: {exchange.length}</summary>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <ol tabindex="0" aria-label="Commands and answers">
    {#each exchange as { command, answer, told }, i (i)}
      <li>
        <span>{told}</span>
        <code>→ {command}</code>
        <code>← {answer}</code>
      </li>
    {/each}
  </ol>
</details>

<style>
  summary {
    cursor: pointer;
    font-weight: 600;
  }
  ol {
    list-style: none;
    margin: 8px 0 0;
    padding: 0;
    max-height: 320px;
    overflow: auto;
    border: 1px solid var(--hair);
  }
  li {
    padding: 4px 8px;
    border-bottom: 1px solid var(--hair);
  }
  code {
    display: block;
    font: 11px/1.5 var(--font-code);
    overflow-wrap: anywhere;
    background: none;
    color: inherit;
    padding: 0;
  }
  span {
    font-size: 12px;
    color: var(--soft);
  }
</style>
