<script lang="ts">
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import { KEY_HELP } from '$lib/state/keys';

  let { open = $bindable(false) }: { open: boolean } = $props();
</script>

<Dialog {open} onOpenChange={(details) => (open = details.open)}>
  <Portal>
    <Dialog.Backdrop class="backdrop" />
    <Dialog.Positioner class="positioner">
      <Dialog.Content class="sheet">
        <Dialog.Title class="sheet-title">Keys</Dialog.Title>
        <dl>
          {#each KEY_HELP as [keys, what] (keys)}
            <dt><kbd>{keys}</kbd></dt>
            <dd>{what}</dd>
          {/each}
        </dl>
        <Dialog.CloseTrigger class="action quiet">Close</Dialog.CloseTrigger>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 6px 16px;
    margin: 0 0 14px;
  }
  dd {
    margin: 0;
  }
</style>
