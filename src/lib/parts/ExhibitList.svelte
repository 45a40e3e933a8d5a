<script lang="ts">
  import { count, plural } from '$lib/format';
  import type { ExhibitRow } from '$lib/worker/protocol';

  interface Props {
    exhibits: ExhibitRow[];
    current: ExhibitRow | null;
    readHref: string;
    onselect: (row: ExhibitRow) => void;
    ondrop: (row: ExhibitRow) => void;
  }
  const { exhibits, current, readHref, onselect, ondrop }: Props = $props();
  const lines = $derived(exhibits.reduce((sum, row) => sum + row.lines, 0));
</script>

<section aria-label="Exhibit list">
  <h1>Exhibit list</h1>
  <small>{plural(exhibits.length, 'conversation')} · {plural(lines, 'line')}</small>
  {#each exhibits as row, i (row.correspondent)}
    <article class:on={row === current}>
      <span class="no">E{i + 1}</span>
      <button class="name" onclick={() => onselect(row)} aria-pressed={row === current}
        ><bdi>{row.name}</bdi></button
      >
      <span class="mono">{count(row.lines)}</span>
      <span class="facts">
        {row.lines === row.of ? 'whole thread' : `${count(row.lines)} of ${plural(row.of, 'line')}`} ·
        {row.span}{#if row.notLive > 0}&nbsp;·
          <em>{count(row.notLive)} not live</em>{/if}
      </span>
      <button class="drop" onclick={() => ondrop(row)} aria-label="Drop {row.name} from the list"
        >Drop</button
      >
    </article>
  {:else}
    <p class="soft none">
      Nothing is chosen yet. In <a href={readHref}>Read</a>, choose lines with
      <kbd>x</kbd> or whole threads with “Choose thread”.
    </p>
  {/each}
</section>

<style>
  section {
    padding: 14px 18px;
    overflow: auto;
    border-right: 1px solid var(--rule);
  }
  h1 {
    font-size: 16px;
  }
  small,
  .facts {
    color: var(--soft);
    font-size: 12px;
  }
  article {
    border: 1px solid var(--rule);
    background: var(--sheet);
    margin-top: 9px;
    padding: 8px 10px 8px 12px;
    display: grid;
    grid-template-columns: 30px minmax(0, 1fr) auto;
    gap: 0 6px;
    border-radius: 2px;
  }
  article.on {
    box-shadow: inset 3px 0 var(--accent);
  }
  .no {
    font: 11px/2 var(--font-code);
    color: var(--soft);
  }
  .name {
    font: 600 14px var(--font-text);
    text-align: left;
    cursor: pointer;
    overflow-wrap: anywhere;
  }
  .facts {
    grid-column: 2;
  }
  .facts em {
    font-style: normal;
    color: var(--ochre);
  }
  .drop {
    align-self: end;
    font-size: 12px;
    color: var(--soft);
    text-decoration: underline;
    cursor: pointer;
  }
  .none {
    margin-top: 12px;
  }
  .none a {
    color: var(--accent);
  }
  @media (max-width: 900px) {
    section {
      border: 0;
    }
  }
</style>
