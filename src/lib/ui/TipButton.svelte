<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { HTMLButtonAttributes } from 'svelte/elements';
  import { Portal, Tooltip } from '@skeletonlabs/skeleton-svelte';

  /** A button whose words appear when it is pointed at or reached with the keyboard. */
  interface Props extends HTMLButtonAttributes {
    tip: string;
    children: Snippet;
  }
  const { tip, children, ...rest }: Props = $props();
</script>

<Tooltip openDelay={350} closeDelay={80} positioning={{ placement: 'bottom' }}>
  <Tooltip.Trigger>
    {#snippet element(attributes)}
      <button {...attributes} {...rest}>{@render children()}</button>
    {/snippet}
  </Tooltip.Trigger>
  <Portal>
    <Tooltip.Positioner class="over">
      <Tooltip.Content class="tip">{tip}</Tooltip.Content>
    </Tooltip.Positioner>
  </Portal>
</Tooltip>

<style>
  :global(.tip) {
    background: var(--ink);
    color: var(--paper);
    border-radius: 3px;
    padding: 3px 8px;
    font: 12px/1.4 var(--font-plain);
    max-width: min(280px, 80vw);
  }
</style>
