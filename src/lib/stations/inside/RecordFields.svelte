<script lang="ts">
  import type {
    InsideField,
    InsidePage,
    InsideRecord,
    LineDetail
  } from '$lib/service/api/protocol';

  interface Props {
    detail: LineDetail | null;
    record: InsideRecord | null;
    page: InsidePage | null;
    /** Which proof of the line is shown, and how many there are. */
    proof: number;
    onproof: (proof: number) => void;
  }
  const { detail, record, page, proof, onproof }: Props = $props();

  function withNote({ text, note }: InsideField): string {
    return note === null ? text : `${text} → ${note}`;
  }

  const proofs = $derived(detail?.message.proofs.length ?? 0);
</script>

{#if detail && record}
  <h2>Line {detail.line || 'not yet numbered'}, {detail.message.state}</h2>
  {#if proofs > 1}
    <p class="proofs">
      Evidence {proof + 1} of {proofs}
      <button class="action quiet" disabled={proof === 0} onclick={() => onproof(proof - 1)}
        >Previous</button
      >
      <button class="action quiet" disabled={proof + 1 >= proofs} onclick={() => onproof(proof + 1)}
        >Next</button
      >
    </p>
  {/if}
  <dl>
    {#each record.fields as field, i (i)}
      <dt>{field.name}</dt>
      <dd class={field.kind}>
        {withNote(field)}
      </dd>
    {/each}
  </dl>
  {#if record.life.length > 0}
    <h2>History of this record</h2>
    <ol>
      {#each record.life as event, i (i)}
        <li class={event.what}>{event.text}</li>
      {/each}
    </ol>
  {/if}
  <h2>Certainty {detail.message.certainty}</h2>
  <ul>
    {#each detail.message.reasons as reason, i (i)}<li>{reason}</li>{/each}
  </ul>
  <h2>Citation</h2>
  <p class="citation mono">{record.citation}</p>
{:else}
  <p class="soft">
    Choose a page on the map, or open a line from Read, to see its record here, field by field.
  </p>
{/if}
{#if page}
  <h2>Checksum of the page</h2>
  <p class="citation mono">SHA-256 {page.sha256}</p>
{/if}

<style>
  h2 {
    font: 600 12.5px var(--font-plain);
    color: var(--soft);
    margin: 18px 0 6px;
  }
  h2:first-child {
    margin-top: 0;
  }
  dl {
    display: grid;
    grid-template-columns: minmax(70px, max-content) 1fr;
    column-gap: 12px;
    margin: 0;
    font-size: 12.5px;
  }
  dt,
  dd {
    margin: 0;
    padding: 4px 0;
    border-bottom: 1px solid var(--hair);
    overflow-wrap: anywhere;
    min-width: 0;
  }
  dt {
    color: var(--soft);
    max-width: 110px;
  }
  .lost {
    color: var(--plum);
  }
  .none {
    color: var(--soft);
  }
  ol {
    list-style: none;
    margin: 0;
    padding: 0;
    font-size: 12.5px;
  }
  ol li {
    padding: 2px 0 2px 14px;
    border-left: 2px solid var(--rule);
  }
  ol li.deleted {
    border-color: var(--ochre);
  }
  ul {
    margin: 0;
    padding-left: 16px;
    list-style: disc;
    font-size: 12.5px;
  }
  .citation {
    border: 1px solid var(--rule);
    background: var(--lit);
    padding: 8px 10px;
    font-size: 11.5px;
    line-height: 1.6;
    overflow-wrap: anywhere;
    margin: 0;
  }
  .proofs {
    display: flex;
    align-items: center;
    gap: 8px;
    font-size: 12.5px;
    margin: 0 0 8px;
  }
</style>
