<script lang="ts">
  import { Toast } from '@skeletonlabs/skeleton-svelte';
  import { notices } from '$lib/state/notices';
</script>

<Toast.Group toaster={notices}>
  {#snippet children(toast)}
    <Toast {toast} class="notice">
      <Toast.Message>
        <Toast.Title>{toast.title}</Toast.Title>
        {#if toast.description}<Toast.Description>{toast.description}</Toast.Description>{/if}
      </Toast.Message>
      {#if toast.action}
        <Toast.ActionTrigger class="action">{toast.action.label}</Toast.ActionTrigger>
      {/if}
      <Toast.CloseTrigger class="action quiet">Close</Toast.CloseTrigger>
    </Toast>
  {/snippet}
</Toast.Group>

<style>
  :global(.notice) {
    display: flex;
    align-items: center;
    gap: 12px;
    background: var(--sheet);
    color: var(--ink);
    border: 1px solid var(--rule);
    border-left: 3px solid var(--accent);
    border-radius: 2px;
    padding: 10px 14px;
    box-shadow: 0 2px 14px rgb(0 0 0 / 0.14);
  }
  /* A word, not the small square that the library makes for a sign. */
  :global(.notice [data-part='close-trigger']) {
    width: auto;
    height: auto;
    padding: 4px 10px;
    font-size: 13px;
  }
</style>
