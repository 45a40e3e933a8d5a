<script lang="ts">
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import { bytes, errorText } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { answersFor } from '$lib/state/latest';
  import type { FileRow, LineFile } from '$lib/service/api/protocol';

  interface Props {
    file: LineFile;
    open: OpenCase;
    onclose: () => void;
  }
  const { file, open, onclose }: Props = $props();

  let query = $state('');
  let rows = $state.raw<FileRow[] | null>(null);
  const answers = answersFor(() => open);

  $effect(() => {
    answers(open.desk.media.candidates(file.id, query), (found) => (rows = found));
  });

  async function join({ sourceId, path }: FileRow): Promise<void> {
    try {
      await open.desk.joinFile(file.id, { sourceId, path });
      onclose();
    } catch (error) {
      open.failure = `The file was not joined: ${errorText(error)}`;
    }
  }
</script>

<Dialog
  open
  onOpenChange={(details) => {
    if (!details.open) onclose();
  }}
>
  <Portal>
    <Dialog.Backdrop class="backdrop" />
    <Dialog.Positioner class="positioner">
      <Dialog.Content class="sheet">
        <Dialog.Title class="sheet-title">Join a file to {file.name}</Dialog.Title>
        <p class="soft">
          The store names this file and its source does not hold it. A file of the case that you
          join stands with the message, marked as joined by hand wherever it is shown or produced.
        </p>
        <input
          class="field"
          type="search"
          placeholder="Part of a path"
          aria-label="Search files"
          bind:value={query}
        />
        <ul aria-label="Files that could be it">
          {#each rows ?? [] as row (row.key)}
            <li>
              <span class="name">
                <b>{row.name}</b>
                <span class="mono soft">{row.source}, {row.path}</span>
              </span>
              <span class="soft">{row.bytes === null ? '' : bytes(row.bytes)}</span>
              <button class="action quiet" onclick={() => void join(row)}>Join</button>
            </li>
          {:else}
            {#if rows}<li class="soft">No file of the case has such a path.</li>{/if}
          {/each}
        </ul>
        <div class="sheet-actions">
          <Dialog.CloseTrigger class="action">Cancel</Dialog.CloseTrigger>
        </div>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<style>
  input {
    width: 100%;
  }
  ul {
    list-style: none;
    margin: 8px 0;
    padding: 0;
    max-height: 46vh;
    overflow: auto;
  }
  li {
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 5px 0;
    border-bottom: 1px solid var(--hair);
  }
  .name {
    flex: 1;
    min-width: 0;
    display: flex;
    flex-direction: column;
  }
  .mono {
    overflow-wrap: anywhere;
  }
</style>
