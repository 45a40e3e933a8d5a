<script lang="ts">
  import type { Verification } from '$core/produce';
  import { count, errorText, plural } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import FilePick from '../../ui/FilePick.svelte';
  import { groupsDropped, groupFolder, groupPicked, type FileGroup } from '$lib/files';

  const { open }: { open: OpenCase } = $props();

  let verified = $state.raw<{ name: string; told: Verification } | null>(null);
  let working = $state(false);
  let over = $state(false);

  /** A file is an archive or a log; more of them are a folder. */
  async function verify({ name, files }: FileGroup): Promise<void> {
    verified = null;
    working = true;
    const [first] = files;
    try {
      const told =
        files.length > 1 || !first
          ? await open.desk.log.verifyFolder(files, name)
          : /\.jsonl$/i.test(name)
            ? await open.desk.log.verifyLog(first.blob, name)
            : await open.desk.log.verifyArchive(first.blob, name);
      verified = { name, told };
    } catch (error) {
      open.failure = `${name} ${errorText(error)}.`;
    } finally {
      working = false;
    }
  }

  async function dropped(transfer: DataTransfer | null): Promise<void> {
    over = false;
    const dropped = transfer && (await groupsDropped(transfer, true));
    if (dropped && 'groups' in dropped && dropped.groups[0]) await verify(dropped.groups[0]);
  }
</script>

<div
  class="drop"
  class:over
  role="group"
  aria-label="Where a package is checked"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    void dropped(event.dataTransfer);
  }}
>
  <FilePick
    title="Check a package"
    testid="package"
    class="link"
    accept=".zip,.jsonl,application/zip"
    onpick={(files) => verify(groupPicked(files)[0]!)}
  />,
  <FilePick
    title="a folder"
    testid="package-folder"
    class="link"
    isFolder
    onpick={(files) => verify(groupFolder(files)[0]!)}
  /> or a saved log that was made here or elsewhere: choose it, or drop it here.
</div>
{#if working}<p role="status">Reading every file of it …</p>{/if}
{#if verified}
  {@const { name, told } = verified}
  <div class="told" class:ok={told.ok} role="status">
    {#if told.ok}
      <b>✓ Nothing was changed.</b> All {count(told.files)} files of {name} are as they were made, and
      the log holds.
    {:else}
      <b>✗ {name} differs</b> in {plural(told.differences.length, 'place')}:
      <ul>
        {#each told.differences.slice(0, 20) as difference, i (i)}
          <li>
            {difference.path}: {difference.what}{#if difference.expected && difference.found}
              <small>expected {difference.expected}, found {difference.found}</small>{/if}
          </li>
        {/each}
      </ul>
    {/if}
  </div>
{/if}

<style>
  .drop {
    border: 1px dashed var(--rule);
    padding: 8px 10px;
    font-size: 12px;
    color: var(--soft);
    margin: 10px 0;
  }
  .over {
    border-color: var(--accent);
    background: var(--accent-wash);
  }
  .drop :global(.link) {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
  .told {
    font-size: 12px;
    overflow-wrap: anywhere;
    border-left: 3px solid var(--alarm);
    padding: 4px 8px;
  }
  .told.ok {
    border-color: var(--accent);
  }
  .told b {
    color: var(--alarm);
  }
  .told.ok b {
    color: var(--accent);
  }
  ul {
    margin: 4px 0 0;
    padding: 0;
    list-style: none;
  }
  small {
    display: block;
    color: var(--soft);
  }
  p {
    font-size: 12px;
  }
</style>
