<script lang="ts">
  import { FORMAT_TITLES, type FormatName } from '$core/produce';
  import { date, plural } from '$lib/format';
  import type { ProductionRecord } from '$lib/storage/schema';

  interface Props {
    productions: ProductionRecord[];
    busy: boolean;
    onrepeat: (made: ProductionRecord) => void;
  }
  const { productions, busy, onrepeat }: Props = $props();

  function formats({ formats: names }: ProductionRecord): string {
    return names.map((name) => FORMAT_TITLES[name as FormatName] ?? name).join(', ');
  }
</script>

{#if productions.length > 0}
  <h2>Earlier productions</h2>
  <ul>
    {#each productions as made (made.id)}
      <li>
        <b>{date(made.made)}</b>, {plural(made.lines, 'message')}{#if made.pages},
          {plural(made.pages, 'page')}{/if}{#if made.first}, {made.first} to {made.last}{/if}
        <small>{formats(made)}</small>
        <small class="mono">{made.sha256.slice(0, 16)}…</small>
        {#if made.settings?.exhibits}
          <button disabled={busy} onclick={() => onrepeat(made)}>Make it again</button>
        {/if}
      </li>
    {/each}
  </ul>
{/if}

<style>
  h2 {
    font-size: 13px;
    margin-top: 14px;
  }
  ul {
    margin: 4px 0 0;
    padding: 0;
    list-style: none;
    font-size: 12px;
  }
  li {
    padding: 5px 0;
    border-bottom: 1px solid var(--hair);
  }
  b {
    font-weight: 600;
  }
  small {
    display: block;
    color: var(--soft);
    overflow-wrap: anywhere;
  }
  button {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
</style>
