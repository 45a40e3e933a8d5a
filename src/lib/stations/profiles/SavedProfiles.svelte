<script lang="ts">
  import type { ReadingProfile } from '$core/profiles';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { notices } from '$lib/state/notices';
  import FilePick from '../../ui/FilePick.svelte';

  const { open, version }: { open: OpenCase; version: number } = $props();

  let list = $state.raw<{ profile: ReadingProfile; isOwn: boolean }[]>([]);

  async function refresh(): Promise<void> {
    const { own, offered } = await open.desk.profiles.saved();
    list = [
      ...own.map((profile) => ({ profile, isOwn: true })),
      ...offered.map((profile) => ({ profile, isOwn: false }))
    ];
  }

  $effect(() => {
    void version;
    void refresh();
  });

  async function remove(id: string): Promise<void> {
    await open.desk.profiles.remove(id);
    await refresh();
  }

  async function picked([file]: File[]): Promise<void> {
    if (!file) return;
    const result = await open.desk.profiles.importFrom(await file.text());
    if (result.ok) notices.create({ title: `The profile “${result.title}” was imported.` });
    else open.failure = `${file.name}: ${result.reason}`;
    await refresh();
  }
</script>

<details>
  <summary>Saved profiles ({list.length})</summary>
  <ul>
    {#each list as { profile, isOwn }, i (i)}
      <li>
        <span
          >{profile.title}
          {#if !isOwn}<span class="soft">saved elsewhere, used where nothing fits better</span
            >{/if}</span
        >
        <button class="action quiet" onclick={() => remove(profile.id)}
          >Delete<span class="visually-hidden"> {profile.title}</span></button
        >
      </li>
    {/each}
  </ul>
  <FilePick title="Import a profile" testid="profile-file" accept=".json" onpick={picked} />
</details>

<style>
  details {
    border: 1px solid var(--rule);
    padding: 7px 12px;
    font-size: 12.5px;
  }
  summary {
    cursor: pointer;
  }
  ul {
    list-style: none;
    margin: 6px 0;
    padding: 0;
  }
  li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 10px;
    padding: 3px 0;
  }
</style>
