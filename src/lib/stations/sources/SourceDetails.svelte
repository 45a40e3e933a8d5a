<script lang="ts">
  import { errorText } from '$lib/format';
  import { notices } from '$lib/state/notices';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { SourceRecord } from '$lib/storage/schema';
  import Sheet from '../../ui/Sheet.svelte';
  import ZoneField from '../../ui/ZoneField.svelte';

  interface Props {
    shown: boolean;
    source: SourceRecord;
    open: OpenCase;
  }
  let { shown = $bindable(false), source, open }: Props = $props();

  const caseZone = $derived(open.summary!.record.zone);
  // svelte-ignore state_referenced_locally
  let name = $state(source.name);
  // svelte-ignore state_referenced_locally
  let zone = $state(source.localZone ?? open.summary!.record.zone);

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    try {
      await open.desk.sources.rename(source.id, name);
      const own = zone === caseZone ? null : zone;
      const isChanged = own !== (source.localZone ?? null);
      if (isChanged) await open.desk.sources.setLocalZone(source.id, own);
      shown = false;
      if (isChanged && source.pass.state !== 'none') offerExamination(source);
    } catch (error) {
      open.failure = errorText(error);
    }
  }

  function offerExamination({ id, pass, name }: SourceRecord): void {
    if (pass.state === 'none') return;
    notices.create({
      title: `${name} has to be examined again for its local times to be read in ${zone}.`,
      duration: 20_000,
      action: {
        label: 'Examine',
        onClick: () =>
          void open.desk.sources
            .examine(id, pass.depth, pass.want)
            .catch((error: unknown) => (open.failure = errorText(error)))
      }
    });
  }
</script>

<Sheet bind:open={shown} title="Details of the source">
  <form onsubmit={keep}>
    <label>Name <input class="field" bind:value={name} required maxlength="200" /></label>
    <label
      >Zone of its local times
      <ZoneField bind:zone label="Zone of its local times" />
      <small>For times that it writes without a zone. The case’s is {caseZone}.</small></label
    >
    <div class="buttons">
      <button type="button" class="action quiet" onclick={() => (shown = false)}>Cancel</button>
      <button class="action main">Save</button>
    </div>
  </form>
</Sheet>

<style>
  form,
  label {
    display: grid;
    gap: 4px;
  }
  form {
    gap: 12px;
  }
  label,
  small {
    color: var(--soft);
  }
  .buttons {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
</style>
