<script lang="ts">
  import type { GlancedPart, SourceGlance } from '$core/records';
  import { count, months } from '$lib/format';

  const { glance, name }: { glance: SourceGlance; name: string } = $props();

  /** Parts of one source that are named; a pass lists all. */
  const MOST_NAMED = 6;

  function sizeOf({ count: n, isMore, what }: GlancedPart): string {
    const noun = n === 1 && !isMore ? what.slice(0, -1) : what;
    return isMore ? `more than ${count(n)} ${noun}` : `about ${count(n)} ${noun}`;
  }

  function spanOf({ from, to }: GlancedPart): string {
    return from === null ? '' : `, ${months(from, to)}`;
  }

  function besideOf({ beside }: GlancedPart): string {
    return beside.length === 0
      ? ''
      : `; ${beside.join(' and ')} ${beside.length > 1 ? 'lie' : 'lies'} beside it`;
  }
</script>

<ul>
  {#each glance.says?.split('\n') ?? [] as said, i (i)}<li>{said}</li>{/each}
  {#each glance.parts.slice(0, MOST_NAMED) as part, i (i)}
    <li>
      <b>{part.title}</b>, {sizeOf(part)}{spanOf(part)}{besideOf(part)}
      {#if part.path !== name}<span class="soft">{part.path}</span>{/if}
    </li>
  {/each}
  {#if glance.parts.length > MOST_NAMED}
    <li class="soft">and {glance.parts.length - MOST_NAMED} more</li>
  {/if}
</ul>

<style>
  ul {
    list-style: none;
    margin: 0;
    padding: 0 14px 10px 62px;
    font-size: 13.5px;
  }
  b {
    font-weight: 600;
  }
  span {
    font-size: 12px;
    overflow-wrap: anywhere;
  }
  @media (max-width: 600px) {
    ul {
      padding-left: 14px;
    }
  }
</style>
