<script lang="ts">
  import { page } from '$app/state';
  import Moon from '@lucide/svelte/icons/moon';
  import Rows from '@lucide/svelte/icons/rows-3';
  import { count, date, plural, zoneLabel } from '$lib/format';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { STATIONS } from '$lib/state/keys';
  import { look } from '$lib/state/look.svelte';
  import { reading } from '$lib/state/reading.svelte';
  import CaseDetails from './CaseDetails.svelte';
  import TipButton from '../ui/TipButton.svelte';
  import Wordmark from '../ui/Wordmark.svelte';

  const { open, onlist }: { open: OpenCase; onlist: () => void } = $props();

  const record = $derived(open.summary?.record);
  let editing = $state(false);
  const verified = $derived(
    open.summary !== null &&
      open.summary.sources.length > 0 &&
      open.summary.sources.every(
        ({ source, isAway, pass }) =>
          source && source.sha256 !== '' && !isAway && pass.state === 'done'
      )
  );
  const onRead = $derived(page.url.pathname.endsWith('/read'));
  const base = $derived(`/case/${page.params.id}`);
  const at = $derived(STATIONS.find(({ path }) => page.url.pathname === `${base}/${path}`));
</script>

<header>
  <Wordmark />
  {#if record}
    <span class="case">
      <button
        class="name"
        onclick={() => (editing = true)}
        aria-label="Details of the case {record.name}"><b>{record.name}</b></button
      >
      <span class="opened">· opened {date(record.opened)}</span>
      {#if verified}<span
          class="seal"
          title="The checksum of every source was verified by its last examination"
          >✓ <span class="visually-hidden">checksums verified</span></span
        >{/if}
    </span>
  {/if}
  <nav aria-label="Stations">
    {#each STATIONS.filter(({ within }) => !within) as { path, title } (path)}
      {@const here = at?.path === path || at?.within === path}
      <a href="{base}/{path}" class:on={here} aria-current={here ? 'page' : undefined}>{title}</a>
    {/each}
  </nav>
  {#if onRead}
    <label class="search">
      <span class="visually-hidden">Search this case</span>
      <input
        id="case-search"
        type="search"
        placeholder="Search this case"
        bind:value={reading.query}
      />
      <kbd>/</kbd>
    </label>
  {/if}
  {#if record}<span class="zone" class:push={!onRead}>{zoneLabel(record.zone)}</span>{/if}
  <TipButton
    class="icon"
    tip="Set the lines {look.density === 'reading' ? 'closer' : 'wider'}"
    aria-label="Density: {look.density}"
    onclick={() => look.toggleDensity()}><Rows size={15} /></TipButton
  >
  <TipButton
    class="icon"
    tip="Switch to {look.mode === 'paper' ? 'dark' : 'light'}"
    aria-label="Switch to {look.mode === 'paper' ? 'dark' : 'light'}"
    onclick={() => look.toggleMode()}><Moon size={15} /></TipButton
  >
  <TipButton class="icon" tip="Keys and marks (?)" aria-label="Keys" onclick={onlist}>?</TipButton>
  <a
    class="tray"
    href="{base}/produce"
    aria-label="{plural(open.summary?.exhibits ?? 0, 'record')} selected, to the exhibit list"
  >
    {count(open.summary?.exhibits ?? 0)} selected
  </a>
</header>

{#if editing}<CaseDetails bind:shown={editing} {open} />{/if}

<style>
  .name {
    cursor: pointer;
  }
  .name:hover {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  header {
    display: flex;
    align-items: center;
    gap: 16px;
    min-height: 48px;
    padding: 0 20px;
    border-bottom: 1px solid var(--rule);
    background: var(--sheet);
    flex: none;
  }
  .case {
    color: var(--soft);
    border-left: 1px solid var(--rule);
    padding-left: 18px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    min-width: 60px;
  }
  .case b {
    color: var(--ink);
    font-weight: 600;
  }
  .seal {
    color: var(--accent);
  }
  nav {
    display: flex;
    gap: 18px;
    margin-left: 8px;
  }
  nav a {
    color: var(--soft);
    text-decoration: none;
    padding: 14px 0 12px;
    border-bottom: 2px solid transparent;
  }
  nav a:hover {
    color: var(--ink);
  }
  nav a.on {
    color: var(--ink);
    font-weight: 600;
    border-color: var(--accent);
  }
  .search {
    margin-left: auto;
    display: flex;
    align-items: center;
    gap: 6px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
    padding: 0 8px 0 0;
    width: 210px;
    min-width: 110px;
  }
  .search:focus-within {
    outline: 2px solid var(--accent);
  }
  .search input {
    all: unset;
    flex: 1;
    min-width: 0;
    padding: 5px 10px;
    color: var(--ink);
  }
  .search input::placeholder {
    color: var(--soft);
  }
  .zone {
    color: var(--soft);
    white-space: nowrap;
  }
  .push {
    margin-left: auto;
  }
  header :global(.icon) {
    border: 1px solid transparent;
    background: none;
    color: var(--soft);
    cursor: pointer;
    padding: 4px 5px;
    margin-inline: -8px;
    border-radius: 3px;
    font-weight: 600;
  }
  header :global(.icon:hover) {
    color: var(--ink);
    border-color: var(--rule);
  }
  .tray {
    background: var(--accent);
    color: var(--on-accent);
    border-radius: 3px;
    padding: 5px 10px;
    font-weight: 600;
    text-decoration: none;
    white-space: nowrap;
    margin-left: 4px;
  }
  @media (max-width: 1100px) {
    .opened {
      display: none;
    }
  }
  @media (max-width: 820px) {
    header {
      flex-wrap: wrap;
      gap: 4px 14px;
      padding: 6px 12px;
    }
    .zone,
    .case,
    kbd {
      display: none;
    }
    nav {
      margin-left: 0;
    }
    nav a {
      padding: 8px 0 6px;
    }
    .search {
      order: 9;
      width: 100%;
      margin: 0 0 4px;
    }
    .tray {
      margin-left: auto;
    }
  }
  @media (max-width: 460px) {
    nav {
      gap: 12px;
      order: 8;
      width: 100%;
    }
  }
</style>
