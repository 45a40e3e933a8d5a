<script lang="ts">
  import type { SnapshotView } from '$bench/devices';
  import { bytes, date, plural } from '$lib/format';

  interface Props {
    snapshots: readonly SnapshotView[];
    /** Older ones that the vault does not keep. */
    dropped: number;
    chosen: ReadonlySet<string>;
    onchoose: (id: string) => void;
  }
  const { snapshots, dropped, chosen, onchoose }: Props = $props();
</script>

<table>
  <thead>
    <tr>
      <th scope="col">Snapshot</th>
      <th scope="col">Device</th>
      <th scope="col">Size</th>
      <th scope="col">Encrypted</th>
    </tr>
  </thead>
  <tbody>
    {#each snapshots as { id, device, system, at, bytes: size, password } (id)}
      <tr>
        <th scope="row">
          <label>
            <input type="checkbox" checked={chosen.has(id)} onchange={() => onchoose(id)} />
            {date(Date.parse(at))}
          </label>
        </th>
        <td>{device}, system {system}</td>
        <td class="size">{bytes(size)}</td>
        <td>{password === null ? 'no' : `yes; simulated, its password is “${password}”`}</td>
      </tr>
    {/each}
  </tbody>
</table>
{#if dropped > 0}
  <p class="soft">
    The vault keeps the newest {snapshots.length}; {plural(
      dropped,
      'older one is',
      'older ones are'
    )}
    gone. The next one will push out the oldest of these.
  </p>
{/if}

<style>
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th,
  td {
    text-align: left;
    padding: 5px 8px 5px 0;
    border-bottom: 1px solid var(--hair);
    font-weight: 400;
  }
  thead th {
    color: var(--soft);
    font-size: 12px;
  }
  tbody th {
    font-weight: 600;
    white-space: nowrap;
  }
  .size {
    white-space: nowrap;
  }
  label {
    display: inline-flex;
    gap: 7px;
    cursor: pointer;
  }
  input {
    accent-color: var(--accent);
  }
  p {
    margin: 6px 0 0;
  }
  @container (max-width: 560px) {
    thead {
      display: none;
    }
    tr,
    tbody th,
    td {
      display: block;
      border: 0;
      padding: 1px 0;
    }
  }
</style>
