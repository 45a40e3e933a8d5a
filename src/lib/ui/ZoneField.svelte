<script lang="ts">
  let { zone = $bindable(), label = 'Time zone' }: { zone: string; label?: string } = $props();

  const zones = Intl.supportedValuesOf('timeZone');
  const all = $derived([...new Set(['Etc/UTC', zone, ...zones])].sort());
</script>

<select class="field" bind:value={zone} aria-label={label}>
  {#each all as name (name)}<option>{name}</option>{/each}
</select>

<style>
  select {
    width: 100%;
  }
</style>
