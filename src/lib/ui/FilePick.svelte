<script lang="ts">
  import { FileUpload } from '@skeletonlabs/skeleton-svelte';
  import { notices } from '$lib/state/notices';

  interface Props {
    /** The words of the button. */
    title: string;
    /** Name of the input for tests. */
    testid: string;
    onpick: (files: File[]) => unknown;
    /** Asked instead of the browser's own dialog for uploads; null leaves it to that. */
    instead?: (() => unknown) | null;
    accept?: string;
    isMultiple?: boolean;
    isFolder?: boolean;
    disabled?: boolean;
    class?: string;
  }
  const {
    title,
    testid,
    onpick,
    instead = null,
    accept,
    isMultiple = false,
    isFolder = false,
    disabled = false,
    class: kind = 'action quiet'
  }: Props = $props();

  let button: HTMLButtonElement;

  /** Asks for files, as a press of the button does. */
  export function choose(): void {
    button.click();
  }

  // The upload's own list takes files of one name and size for the same file, whatever folder
  // they lie in. Evidence may hold both: what was picked is read from the input itself.
  function picked({ currentTarget }: Event & { currentTarget: HTMLInputElement }): void {
    const files = [...(currentTarget.files ?? [])];
    // The same file can be picked again, when it was changed.
    currentTarget.value = '';
    if (files.length > 0) onpick(files);
    else if (isFolder) notices.create({ title: 'The folder is empty.' });
  }
</script>

<FileUpload
  class="file-pick"
  allowDrop={false}
  maxFiles={isMultiple || isFolder ? Infinity : 1}
  directory={isFolder}
  {accept}
  {disabled}
>
  <FileUpload.Context>
    {#snippet children(upload)}
      <button
        bind:this={button}
        type="button"
        class={kind}
        {disabled}
        onclick={() => (instead ? instead() : upload().openFilePicker())}>{title}</button
      >
    {/snippet}
  </FileUpload.Context>
  <FileUpload.HiddenInput>
    {#snippet element(attributes)}
      <input
        {...attributes}
        webkitdirectory={isFolder}
        data-testid={testid}
        aria-label={title}
        oninput={picked}
      />
    {/snippet}
  </FileUpload.HiddenInput>
</FileUpload>

<style>
  :global(.file-pick) {
    display: inline-block;
    width: auto;
    position: relative;
  }
</style>
