<script lang="ts">
  import { goto } from '$app/navigation';
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import { beginCase, newCase } from '$lib/storage/casebook';
  import ZoneField from './ZoneField.svelte';

  let { open = $bindable(false) }: { open: boolean } = $props();

  let name = $state('');
  let client = $state('');
  let zone = $state(Intl.DateTimeFormat().resolvedOptions().timeZone);

  async function create(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const record = newCase(name.trim() || 'Untitled case', client.trim(), zone);
    await beginCase(record);
    open = false;
    await goto(`/case/${record.id}/sources`);
  }
</script>

<Dialog {open} onOpenChange={(details) => (open = details.open)}>
  <Portal>
    <Dialog.Backdrop class="backdrop" />
    <Dialog.Positioner class="positioner">
      <Dialog.Content class="sheet">
        <Dialog.Title class="sheet-title">New case</Dialog.Title>
        <form onsubmit={create}>
          <label
            >Case <input
              class="field"
              bind:value={name}
              placeholder="Its name, as records will show it"
              required
            /></label
          >
          <label
            >Client <input
              class="field"
              bind:value={client}
              placeholder="Whose phone or account it is"
            /></label
          >
          <label>Time zone <ZoneField bind:zone /></label>
          <div class="buttons">
            <Dialog.CloseTrigger class="action quiet">Cancel</Dialog.CloseTrigger>
            <button class="action main">Open case</button>
          </div>
        </form>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  form {
    display: grid;
    gap: 12px;
  }
  label {
    display: grid;
    gap: 4px;
    color: var(--soft);
  }
  .buttons {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    margin-top: 6px;
  }
</style>
