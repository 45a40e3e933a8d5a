<script lang="ts">
  import '../styles/app.css';
  import type { Snippet } from 'svelte';
  import { look } from '$lib/state/look.svelte';
  import Notices from '$lib/parts/Notices.svelte';

  const { children }: { children: Snippet } = $props();
  look.load();
</script>

{@render children()}
<Notices />
