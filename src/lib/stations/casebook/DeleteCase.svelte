<script lang="ts">
  import { listed, plural } from '$lib/format';
  import { tollOf, type CaseCard } from '$lib/storage/casebook';
  import Sheet from '../../ui/Sheet.svelte';

  /** Says what goes along with a case before it is deleted. */
  interface Props {
    card: CaseCard;
    onkeep: () => void;
    ondelete: () => void;
  }
  const { card, onkeep, ondelete }: Props = $props();

  let more = $state.raw({ notes: 0, productions: 0 });
  $effect(() => {
    void tollOf(card.record.id).then((found) => (more = found));
  });

  const toll = $derived(
    listed(
      [
        [card.sources, 'source'] as const,
        [card.live + card.notLive, 'record'] as const,
        [more.notes, 'note'] as const,
        [more.productions, 'production'] as const
      ].flatMap(([n, noun]) => (n > 0 ? [plural(n, noun)] : []))
    )
  );
</script>

<Sheet bind:open={() => true, (shown) => !shown && onkeep()} title="Delete {card.record.name}?">
  <p>
    {toll === '' ? 'Nothing is in it yet.' : `With it go ${toll}, its exhibit lists and its log.`}
  </p>
  <p class="soft">
    It can be brought back for a day. After that it is gone, with the evidence that was copied into
    this browser for it. What lies on your disk is not touched.
  </p>
  <div>
    <button class="action quiet" onclick={onkeep}>Keep it</button>
    <button class="action main" onclick={ondelete}>Delete case</button>
  </div>
</Sheet>

<style>
  p {
    margin: 0 0 10px;
  }
  div {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
</style>
