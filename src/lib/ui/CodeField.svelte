<script lang="ts">
  import { codes } from '$lib/state/codes.svelte';

  interface Props {
    id: string;
    /** Codes that the case uses already. */
    known: readonly string[];
  }
  const { id, known }: Props = $props();

  const PATTERN = '[\\p{L}\\p{N} ._\\/\\-]+';
</script>

<input
  class="small-field"
  {id}
  type="text"
  list="{id}-known"
  maxlength="24"
  required
  pattern={PATTERN}
  title="Letters, digits, spaces and . _ / -"
  placeholder="PRIV"
  autocomplete="off"
  bind:value={codes.last}
/>
<datalist id="{id}-known">
  {#each known as code, i (i)}<option value={code}></option>{/each}
</datalist>

<style>
</style>
