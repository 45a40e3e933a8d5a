<script lang="ts">
  import X from '@lucide/svelte/icons/x';

  /** Shows what is new to a reader until it was read once in this browser. */
  const { onmore }: { onmore: () => void } = $props();

  const KEY = 'marks were explained';
  let seen = $state(localStorage.getItem(KEY) !== null);

  function close(): void {
    localStorage.setItem(KEY, 'yes');
    seen = true;
  }
</script>

{#if !seen}
  <p class="hint" role="note">
    <span
      >The marks down the middle: <b>●</b> live, <b class="recovered">◆</b> recovered.
      <kbd>j</kbd> and <kbd>k</kbd> move, <kbd>x</kbd> selects.</span
    >
    <button
      class="action quiet"
      onclick={() => {
        close();
        onmore();
      }}>All marks</button
    >
    <button class="close" onclick={close} aria-label="Close this hint"><X size={14} /></button>
  </p>
{/if}

<style>
  .hint {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 4px 12px;
    margin: 0;
    padding: 5px 26px;
    background: var(--accent-wash);
    border-bottom: 1px solid var(--rule);
    flex: none;
  }
  .action {
    padding: 1px 9px;
  }
  .close {
    margin-left: auto;
    cursor: pointer;
    color: var(--soft);
  }
  /* Without a keyboard, and where every line counts, the list of marks is enough. */
  @media (max-width: 820px) {
    .hint {
      display: none;
    }
  }
  .recovered {
    color: var(--tone);
  }
</style>
