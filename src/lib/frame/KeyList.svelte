<script lang="ts">
  import { Dialog, Portal, Tabs } from '@skeletonlabs/skeleton-svelte';
  import { KEY_HELP } from '$lib/state/keys';
  import { MARKS } from '../ui/marks';

  let {
    open = $bindable(false),
    tab = $bindable('keys')
  }: { open: boolean; tab?: 'keys' | 'marks' } = $props();

  const MEANING: Record<(typeof MARKS)[number]['state'], string> = {
    live: 'The store still lists it: nothing was deleted.',
    held: 'It was deleted and lies in the store’s own holding area, until the day given.',
    recovered: 'It was deleted and was recovered in full from what its bytes left behind.',
    fragment: 'It was deleted and was recovered in part; […] stands where bytes are lost.',
    earlier: 'An older wording of a message that was changed later.'
  };
</script>

<Dialog {open} onOpenChange={(details) => (open = details.open)}>
  <Portal>
    <Dialog.Backdrop class="backdrop" />
    <Dialog.Positioner class="positioner">
      <Dialog.Content class="sheet help">
        <Dialog.Title class="sheet-title">Keys and marks</Dialog.Title>
        <Tabs value={tab} onValueChange={(details) => (tab = details.value as typeof tab)}>
          <Tabs.List>
            <Tabs.Trigger value="keys">Keys</Tabs.Trigger>
            <Tabs.Trigger value="marks">Marks</Tabs.Trigger>
            <Tabs.Indicator />
          </Tabs.List>
          <Tabs.Content value="keys">
            <dl>
              {#each KEY_HELP as [keys, what] (keys)}
                <dt><kbd>{keys}</kbd></dt>
                <dd>{what}</dd>
              {/each}
            </dl>
          </Tabs.Content>
          <Tabs.Content value="marks">
            <p>
              Down the middle stand a line’s number, which stays and can be cited, its time, and a
              mark that says what it is. The owner’s words stand on the right, the others’ on the
              left.
            </p>
            <dl>
              {#each MARKS as { state, mark, word } (state)}
                <dt class={state}><span class="glyph">{mark}</span> {word}</dt>
                <dd>{MEANING[state]}</dd>
              {/each}
              <dt>┄ gap</dt>
              <dd>Messages that are known to have existed here, and were not found.</dd>
              <dt>99</dt>
              <dd>
                Certainty, of 100: how well what was recovered is supported. Its reasons stand in
                the margin, with the bytes that prove it.
              </dd>
            </dl>
          </Tabs.Content>
        </Tabs>
        <Dialog.CloseTrigger class="action quiet">Close</Dialog.CloseTrigger>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  :global(.sheet.help) {
    width: min(560px, 100%);
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 7px 16px;
    margin: 10px 0 14px;
  }
  dt {
    white-space: nowrap;
  }
  dd {
    margin: 0;
  }
  p {
    margin: 10px 0 0;
  }
  .glyph {
    color: var(--tone);
  }
</style>
