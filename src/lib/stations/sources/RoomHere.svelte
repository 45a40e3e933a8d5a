<script lang="ts">
  import { Switch } from '@skeletonlabs/skeleton-svelte';
  import { bytes } from '$lib/format';

  interface Props {
    copies: boolean;
    /** The browser can read files where they lie. */
    canChoose: boolean;
  }
  let { copies = $bindable(), canChoose }: Props = $props();

  let free = $state<number | null>(null);
  $effect(() => {
    void copies;
    void navigator.storage.estimate().then(({ quota, usage }) => {
      free = quota === undefined || usage === undefined ? null : quota - usage;
    });
  });
</script>

<p class="place soft">
  {#if canChoose}
    <Switch checked={copies} onCheckedChange={(details) => (copies = details.checked)}>
      <Switch.Control>
        <Switch.Thumb />
      </Switch.Control>
      <Switch.Label>Copy what is added into this browser</Switch.Label>
      <Switch.HiddenInput />
    </Switch>
  {/if}
  <span>
    {copies
      ? `What is added is copied into this browser${free === null ? '.' : `, which has room for ${bytes(free)} more.`}`
      : 'What is added is read where it lies, and not copied.'}
  </span>
</p>

<style>
  .place {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 14px;
    margin: 0 0 12px;
    font-size: 12.5px;
  }
  /* Off, its track would hardly stand out from the page. */
  .place :global([data-part='control']) {
    outline: 1px solid var(--soft);
  }
</style>
