<script lang="ts">
  import { plural } from '$lib/format';
  import type { CaseCard } from '$lib/storage/casebook';

  /** Cases that were deleted within the last day. */
  interface Props {
    deleted: readonly CaseCard[];
    onback: (id: string) => unknown;
    onpurge: (id: string) => unknown;
  }
  const { deleted, onback, onpurge }: Props = $props();
</script>

{#if deleted.length > 0}
  <details>
    <summary>{plural(deleted.length, 'deleted case')}, kept for a day</summary>
    <ul>
      {#each deleted as { record } (record.id)}
        <li>
          <span>{record.name}</span>
          <button class="action quiet" onclick={() => onback(record.id)}
            >Bring back<span class="visually-hidden"> {record.name}</span></button
          >
          <button class="action quiet" onclick={() => onpurge(record.id)}
            >Delete for good<span class="visually-hidden"> {record.name}</span></button
          >
        </li>
      {/each}
    </ul>
  </details>
{/if}

<style>
  details {
    margin-top: 16px;
    border: 1px dashed var(--rule);
    padding: 8px 14px;
  }
  summary {
    cursor: pointer;
    color: var(--soft);
  }
  ul {
    list-style: none;
    margin: 6px 0 0;
    padding: 0;
  }
  li {
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 3px 0;
  }
  li span:first-child {
    margin-right: auto;
    overflow-wrap: anywhere;
  }
</style>
