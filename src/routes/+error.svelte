<script lang="ts">
  import { page } from '$app/state';
  import Wordmark from '$lib/ui/Wordmark.svelte';

  const missing = $derived(page.status === 404);
</script>

<svelte:head><title>{missing ? 'Not found' : 'No answer'} · Ombudsman</title></svelte:head>

<main role="alert">
  <Wordmark />
  {#if missing}
    <h1>There is nothing at this address</h1>
    <p>Cases are listed in the casebook.</p>
  {:else}
    <h1>The application does not answer</h1>
    <p>
      A part of it could not be loaded: the program that serves it on this machine has stopped, or
      was replaced by a newer one. Nothing is lost: cases are kept in this browser. Start it again,
      then try again.
    </p>
    <p class="mono">{page.error?.message ?? ''}</p>
  {/if}
  <p class="go">
    {#if !missing}<button class="action main" onclick={() => location.reload()}>Try again</button
      >{/if}
    <a class="action" href="/" data-sveltekit-reload>To the casebook</a>
  </p>
</main>

<style>
  main {
    max-width: 62ch;
    margin: 12vh auto 0;
    padding: 0 20px;
    font: 15.5px/1.55 var(--font-text);
  }
  h1 {
    font-size: 22px;
    margin: 24px 0 8px;
  }
  .mono {
    font-size: 12.5px;
    color: var(--soft);
  }
  .go {
    display: flex;
    gap: 10px;
    margin-top: 18px;
  }
</style>
