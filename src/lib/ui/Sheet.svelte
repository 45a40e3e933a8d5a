<script lang="ts">
  import type { Snippet } from 'svelte';
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';

  /** A small dialog over the page. */
  interface Props {
    open: boolean;
    title: string;
    children: Snippet;
  }
  let { open = $bindable(), title, children }: Props = $props();
</script>

<Dialog {open} onOpenChange={(details) => (open = details.open)}>
  <Portal>
    <Dialog.Backdrop class="backdrop" />
    <Dialog.Positioner class="positioner">
      <Dialog.Content class="sheet">
        <Dialog.Title class="sheet-title">{title}</Dialog.Title>
        {@render children()}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>
