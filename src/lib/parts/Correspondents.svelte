<script lang="ts">
  import { count } from '$lib/format';
  import type { CorrespondentRow } from '$lib/worker/protocol';

  interface Props {
    rows: CorrespondentRow[];
    selected: string | null;
    onselect: (id: string) => void;
  }
  const { rows, selected, onselect }: Props = $props();

  function bars(row: CorrespondentRow): { x: number; h: number; n: number }[] {
    const top = Math.max(1, ...row.density);
    return row.density.map((n, i) => ({
      x: i * 4,
      h: n === 0 ? 0 : 2 + (10 * n) / top,
      n: row.densityNotLive[i]! > 0 ? Math.max(2, 2 + (10 * row.densityNotLive[i]!) / top) : 0
    }));
  }
</script>

<nav class="people" aria-label="Correspondents">
  <ul>
    {#each rows as row (row.id)}
      <li>
        <button
          class:on={row.id === selected}
          aria-current={row.id === selected ? 'true' : undefined}
          onclick={() => onselect(row.id)}
        >
          <span class="name"><b><bdi>{row.name}</bdi></b><small>{row.detail}</small></span>
          <span class="n"
            >{count(row.lines)}{#if row.notLive > 0}<br /><em
                ><span aria-hidden="true">◆</span>
                {count(row.notLive)}<span class="visually-hidden"> not live</span></em
              >{/if}</span
          >
          <svg viewBox="0 0 226 13" preserveAspectRatio="none" aria-hidden="true">
            {#each bars(row) as { x, h, n } (x)}
              {#if h > 0}<rect
                  {x}
                  y={12 - h}
                  width="3"
                  height={h}
                  fill="var(--bar)"
                  opacity="0.65"
                />{/if}
              {#if n > 0}<rect {x} y={12 - n} width="3" height={n} fill="var(--ochre-bar)" />{/if}
            {/each}
          </svg>
        </button>
      </li>
    {:else}
      <li class="none">No correspondent matches.</li>
    {/each}
  </ul>
</nav>

<style>
  .people {
    border-right: 1px solid var(--rule);
    overflow: auto;
    min-height: 0;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  button {
    all: unset;
    box-sizing: border-box;
    width: 100%;
    cursor: pointer;
    padding: 9px 14px 8px 20px;
    border-bottom: 1px solid var(--hair);
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 0 8px;
  }
  button:hover {
    background: var(--sheet);
  }
  button.on {
    background: var(--accent-wash);
    box-shadow: inset 3px 0 var(--accent);
  }
  button:focus-visible {
    outline: 2px solid var(--accent);
    outline-offset: -2px;
  }
  .name {
    min-width: 0;
  }
  b {
    display: block;
    font: 600 14.5px/1.35 var(--font-text);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  small {
    color: var(--soft);
    font-size: 11.5px;
  }
  .n {
    white-space: nowrap;
    font-size: 12px;
    color: var(--soft);
    text-align: right;
    font-variant-numeric: tabular-nums;
  }
  em {
    font-style: normal;
    color: var(--ochre);
    font-weight: 600;
  }
  svg {
    grid-column: 1 / 3;
    margin-top: 4px;
    width: 100%;
    height: 13px;
  }
  .none {
    padding: 16px 20px;
    color: var(--soft);
  }
</style>
