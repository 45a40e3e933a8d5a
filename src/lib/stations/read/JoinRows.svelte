<script lang="ts">
  import type { JoinRow } from '$lib/service/api/people-api';
  import type { Snippet } from 'svelte';

  interface Props {
    joins: readonly JoinRow[];
    actions: Snippet<[JoinRow]>;
  }
  const { joins, actions }: Props = $props();
</script>

<ul>
  {#each joins as join, i (i)}
    <li>
      <span class="pair"><bdi>{join.aShown}</bdi> <i>and</i> <bdi>{join.bShown}</bdi></span>
      <span class="soft">{join.text}</span>
      <span class="does">{@render actions(join)}</span>
    </li>
  {/each}
</ul>

<style>
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 1px 14px;
    padding: 7px 0;
    border-bottom: 1px solid var(--hair);
  }
  .pair {
    font: 14.5px var(--font-text);
    overflow-wrap: anywhere;
  }
  i {
    color: var(--soft);
  }
  .soft {
    grid-column: 1;
    font-size: 12px;
  }
  .does {
    grid-column: 2;
    grid-row: 1 / 3;
    align-self: center;
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
</style>
