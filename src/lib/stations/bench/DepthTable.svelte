<script lang="ts">
  import type { DepthView } from '$bench/devices';
  import { bytes } from '$lib/format';

  interface Props {
    depths: readonly DepthView[];
    selected: DepthView['depth'];
    onselect: (depth: DepthView['depth']) => void;
  }
  const { depths, selected, onselect }: Props = $props();

  const TITLES: Record<DepthView['depth'], string> = {
    logical: 'What it hands out',
    'file-system': 'Its files',
    physical: 'Bit for bit'
  };

  /** What the trade calls them. */
  const TRADE: Record<DepthView['depth'], string> = {
    logical: 'a logical copy',
    'file-system': 'a copy of the file system',
    physical: 'a physical copy'
  };

  function takes(seconds: number): string {
    return seconds < 90 ? `${seconds} s` : `${Math.ceil(seconds / 60)} min`;
  }
</script>

<table>
  <thead>
    <tr>
      <th scope="col">Copy</th>
      <th scope="col">Live</th>
      <th scope="col">Deleted rows</th>
      <th scope="col">Deleted files</th>
      <th scope="col">On the device</th>
      <th scope="col">Takes</th>
    </tr>
  </thead>
  <tbody>
    {#each depths as row (row.depth)}
      <tr class:on={row.depth === selected} class:dim={row.why !== null}>
        <th scope="row">
          <label title={TRADE[row.depth]}>
            <input
              type="radio"
              name="depth"
              checked={row.depth === selected}
              disabled={row.why !== null}
              onchange={() => onselect(row.depth)}
            />
            {TITLES[row.depth]}
          </label>
        </th>
        {#if row.why !== null}
          <td colspan="5">{row.why}</td>
        {:else}
          <td data-label="Live">{row.live}</td>
          <td data-label="Deleted rows">{row.deletedRows}</td>
          <td data-label="Deleted files">{row.deletedFiles}</td>
          <td data-label="On the device">{row.changes}</td>
          <td class="takes" data-label="Takes"
            >{takes(row.seconds)}<small>{bytes(row.bytes)}</small></td
          >
        {/if}
      </tr>
    {/each}
  </tbody>
</table>

<style>
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th,
  td {
    text-align: left;
    vertical-align: top;
    padding: 6px 8px 7px 0;
    border-bottom: 1px solid var(--hair);
    font-weight: 400;
  }
  thead th {
    color: var(--soft);
    font-size: 12px;
    vertical-align: bottom;
    border-bottom-color: var(--rule);
  }
  tbody th {
    font-weight: 600;
    padding-left: 8px;
    white-space: nowrap;
    box-shadow: inset 3px 0 0 transparent;
  }
  thead th:first-child {
    padding-left: 8px;
  }
  .on th,
  .on td {
    background: var(--accent-wash);
  }
  .on th {
    box-shadow: inset 3px 0 0 var(--accent);
  }
  .dim,
  .dim th {
    color: var(--soft);
  }
  label {
    display: inline-flex;
    gap: 7px;
    align-items: baseline;
    cursor: pointer;
  }
  input {
    accent-color: var(--accent);
  }
  .takes {
    white-space: nowrap;
    font-variant-numeric: tabular-nums;
  }
  @container (max-width: 620px) {
    thead {
      display: none;
    }
    tr,
    tbody th,
    td {
      display: block;
    }
    tbody td {
      border: 0;
      padding: 2px 8px 2px 30px;
    }
    td[data-label]::before {
      content: attr(data-label) ': ';
      color: var(--soft);
    }
  }
  small {
    display: block;
    color: var(--soft);
    font-size: 12px;
  }
</style>
