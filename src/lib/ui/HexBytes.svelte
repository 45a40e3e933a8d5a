<script lang="ts">
  interface Props {
    bytes: Uint8Array;
    /** Offset of the first byte in its file. */
    offset: number;
    rows: number;
    /** Leading bytes that were overwritten and rebuilt. */
    rebuilt: number;
  }
  const { bytes, offset, rows, rebuilt }: Props = $props();

  const WIDTH = 8;

  const table = $derived(
    Array.from({ length: Math.min(rows, Math.ceil(bytes.length / WIDTH)) }, (_, row) => {
      const part = [...bytes.subarray(row * WIDTH, (row + 1) * WIDTH)];
      return {
        at: (offset + row * WIDTH).toString(16).toUpperCase().padStart(6, '0'),
        cells: part.map((byte, i) => ({
          hex: byte.toString(16).padStart(2, '0'),
          lost: row * WIDTH + i < rebuilt
        })),
        text: part
          .map((byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·'))
          .join('')
      };
    })
  );
</script>

<div class="hex mono" role="img" aria-label="{bytes.length} bytes from offset {offset}">
  {#each table as { at, cells, text }, row (row)}
    <div>
      <span class="at">{at}</span>{#each cells as { hex, lost }, i (i)}<span class:lost>{hex}</span
        >{/each}<span class="text">{text}</span>
    </div>
  {/each}
</div>

<style>
  .hex {
    background: var(--sheet);
    border: 1px solid var(--rule);
    padding: 6px 6px;
    line-height: 1.7;
    font-size: 9.5px;
    overflow-x: auto;
    white-space: pre;
  }
  span {
    margin-right: 2.5px;
  }
  .at {
    color: var(--soft);
    margin-right: 5px;
  }
  .text {
    margin-left: 5px;
    color: var(--soft);
  }
  .lost {
    background: var(--plum-wash);
    color: var(--plum);
  }
</style>
