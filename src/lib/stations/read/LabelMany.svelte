<script lang="ts">
  import { Popover, Portal } from '@skeletonlabs/skeleton-svelte';
  import Tag from '@lucide/svelte/icons/tag';
  import { errorText, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { notices } from '$lib/state/notices';
  import { answersFor } from '$lib/state/latest';
  import type { Labelled } from '$lib/service/notes/notes-room';

  interface Props {
    open: OpenCase;
    /** The words of the button, as “Label all 14 hits”. */
    title: string;
    records: () => Labelled;
    disabled?: boolean;
  }
  const { open, title, records, disabled = false }: Props = $props();

  let shown = $state(false);
  let label = $state('');
  let known = $state.raw<string[]>([]);
  const answers = answersFor(() => open);
  const own = $derived(label.trim());

  $effect(() => {
    if (shown) answers(open.desk.notes.labels(), (all) => (known = all.map(([one]) => one)));
  });

  async function put(isOn: boolean): Promise<void> {
    if (own === '') return;
    const told = records();
    try {
      const changed = await open.desk.notes.label(told, own, isOn);
      shown = false;
      notices.create({
        title: isOn
          ? `${plural(changed, told.kind === 'line' ? 'message' : 'file')} labelled “${own}”.`
          : `“${own}” removed from ${plural(changed, told.kind === 'line' ? 'message' : 'file')}.`
      });
    } catch (error) {
      open.failure = `The labels were not changed: ${errorText(error)}`;
    }
  }
</script>

<Popover
  open={shown}
  onOpenChange={(details) => (shown = details.open)}
  positioning={{ placement: 'bottom-end' }}
>
  <Popover.Trigger class="action quiet label-many" {disabled}>
    <Tag size={13} aria-hidden="true" />{title}
  </Popover.Trigger>
  <Portal>
    <Popover.Positioner class="over">
      <Popover.Content class="pop-sheet" aria-label={title}>
        <form
          onsubmit={(event) => {
            event.preventDefault();
            void put(true);
          }}
        >
          <label
            >Label <input
              class="field"
              maxlength="60"
              bind:value={label}
              placeholder="privileged"
            /></label
          >
          <button class="action main" disabled={own === ''}>Add</button>
          <button
            type="button"
            class="action quiet"
            disabled={own === ''}
            onclick={() => void put(false)}>Remove</button
          >
        </form>
        {#if known.length > 0}
          <p>
            {#each known as one, i (i)}<button onclick={() => (label = one)}>{one}</button>{/each}
          </p>
        {/if}
      </Popover.Content>
    </Popover.Positioner>
  </Portal>
</Popover>

<style>
  form,
  p {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
  }
  p {
    margin: 10px 0 0;
  }
  p button {
    color: var(--accent);
    cursor: pointer;
  }
  label {
    display: flex;
    align-items: center;
    gap: 8px;
    color: var(--soft);
  }
</style>
