<script lang="ts">
  import { errorText } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import CaseForm from '../ui/CaseForm.svelte';
  import Sheet from '../ui/Sheet.svelte';

  let { shown = $bindable(false), open }: { shown: boolean; open: OpenCase } = $props();

  const record = $derived(open.summary?.record);

  async function keep(details: { name: string; client: string; zone: string }): Promise<void> {
    try {
      await open.desk.updateCase(details);
      shown = false;
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

{#if record}
  <Sheet bind:open={shown} title="Details of the case">
    <CaseForm
      name={record.name}
      client={record.client}
      zone={record.zone}
      done="Save"
      onkeep={keep}
      oncancel={() => (shown = false)}
    />
  </Sheet>
{/if}
