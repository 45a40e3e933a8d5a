<script lang="ts">
  import '../styles/app.css';
  import { onMount, type Snippet } from 'svelte';
  import { notices } from '$lib/state/notices';
  import { STORAGE_CHANNEL } from '$lib/storage/open';
  import { look } from '$lib/state/look.svelte';
  import Notices from '$lib/frame/Notices.svelte';

  const { children }: { children: Snippet } = $props();
  look.load();

  onMount(() => {
    const told = new BroadcastChannel(STORAGE_CHANNEL);
    told.onmessage = () =>
      notices.create({
        title:
          'Another tab holds an older version of the storage open. Close the other tabs of this application to go on.',
        duration: 60_000
      });
    return () => told.close();
  });
</script>

{@render children()}
<Notices />
