<script lang="ts">
  import { goto } from '$app/navigation';
  import { beginCase, newCase } from '$lib/storage/casebook';
  import CaseForm from '../../ui/CaseForm.svelte';
  import Sheet from '../../ui/Sheet.svelte';

  let { open = $bindable(false) }: { open: boolean } = $props();

  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;

  async function create(details: { name: string; client: string; zone: string }): Promise<void> {
    const record = newCase(details.name, details.client, details.zone);
    await beginCase(record);
    open = false;
    await goto(`/case/${record.id}/sources`);
  }
</script>

<Sheet bind:open title="New case">
  <CaseForm
    name=""
    client=""
    {zone}
    done="Open case"
    onkeep={create}
    oncancel={() => (open = false)}
  />
</Sheet>
