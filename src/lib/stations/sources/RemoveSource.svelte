<script lang="ts">
  import { errorText, listed, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { notices } from '$lib/state/notices';
  import type { SourceRecord } from '$lib/storage/schema';
  import type { RemovalToll } from '$lib/service/case/source-room';
  import Sheet from '../../ui/Sheet.svelte';

  /** Says what goes along with a source before it is removed, and how it comes back. */
  interface Props {
    shown: boolean;
    source: SourceRecord;
    open: OpenCase;
  }
  let { shown = $bindable(false), source, open }: Props = $props();

  let toll = $state.raw<RemovalToll | null>(null);

  $effect(() => {
    const { id } = source;
    open.desk.sources.toll(id).then(
      (found) => (toll = found),
      (error: unknown) => (open.failure = errorText(error))
    );
  });

  const found = $derived(
    toll === null
      ? ''
      : listed([
          ...some(toll.messages, 'message'),
          ...some(toll.calls, 'call'),
          ...some(toll.contacts, 'contact'),
          ...some(toll.files, 'file')
        ])
  );
  const named = $derived(
    toll === null
      ? ''
      : listed([
          ...some(toll.exhibits, 'selected record'),
          ...some(toll.redactions, 'redaction'),
          ...some(toll.notes, 'note')
        ])
  );

  function some(n: number, noun: string): string[] {
    return n === 0 ? [] : [plural(n, noun)];
  }

  async function remove(): Promise<void> {
    const { id, name } = source;
    shown = false;
    try {
      await open.desk.sources.remove(id);
      notices.create({
        title: `${name} was removed.`,
        duration: 15_000,
        action: { label: 'Undo', onClick: () => void restore(id) }
      });
    } catch (error) {
      open.failure = errorText(error);
    }
  }

  async function restore(id: string): Promise<void> {
    try {
      await open.desk.sources.restore(id);
    } catch (error) {
      open.failure = errorText(error);
    }
  }
</script>

<Sheet bind:open={shown} title="Remove {source.name}?">
  <p>
    {#if toll === null}
      Counting what goes along …
    {:else if found === ''}
      Nothing was found in it yet.
    {:else}
      What was found in it goes along: {found}.
    {/if}
    {#if named !== ''}
      It takes with it {named}.
    {/if}
  </p>
  <p class="soft">
    It can be brought back until the case is closed. The evidence itself is not touched{source.isInPlace
      ? ''
      : '; the copy in this browser is deleted then'}.
  </p>
  <div class="buttons">
    <button class="action quiet" onclick={() => (shown = false)}>Keep it</button>
    <button class="action main" onclick={remove} disabled={toll === null}>Remove source</button>
  </div>
</Sheet>

<style>
  p {
    margin: 0 0 10px;
  }
  .buttons {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
</style>
