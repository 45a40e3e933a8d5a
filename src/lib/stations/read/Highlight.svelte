<script lang="ts">
  import { LOST_MARK } from '$core/records';

  interface Props {
    text: string;
    query: string;
    /** U+FFFC stands where bytes are lost. */
    lost: boolean;
  }
  const { text, query, lost }: Props = $props();

  /** A sign that no font draws. */
  const JOINER = '\u2060';

  interface Piece {
    text: string;
    kind: 'plain' | 'found' | 'lost';
  }

  const pieces = $derived(cut(text, query.trim(), lost));

  function cut(whole: string, wanted: string, withLost: boolean): Piece[] {
    // Apps put the same sign where a file belongs; what is drawn in its place keeps the places of all other signs.
    const parts = withLost
      ? whole.split(new RegExp(`(${LOST_MARK})`))
      : [whole.replaceAll(LOST_MARK, JOINER)];
    return parts.flatMap((part): Piece[] => {
      if (part === LOST_MARK && withLost) return [{ text: '[… bytes lost]', kind: 'lost' }];
      if (wanted === '') return [{ text: part, kind: 'plain' }];
      const escaped = wanted.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
      return part
        .split(new RegExp(`(${escaped})`, 'iu'))
        .map((piece, i): Piece => ({ text: piece, kind: i % 2 === 1 ? 'found' : 'plain' }));
    });
  }
</script>

{#each pieces as piece, i (i)}{#if piece.kind === 'found'}<mark>{piece.text}</mark
    >{:else if piece.kind === 'lost'}<span class="lost">{piece.text}</span
    >{:else}{piece.text}{/if}{/each}

<style>
  mark {
    background: var(--ochre-wash);
    color: inherit;
    box-shadow: inset 0 -2px var(--ochre-bar);
  }
  .lost {
    color: var(--plum);
    font: 12px var(--font-code);
    border-bottom: 1px dashed var(--plum);
  }
</style>
