<script lang="ts">
  import { COPY_KINDS, COPY_TITLES, MOST_COPIES, type CopyKind } from '$core/plan';
  import { dayText } from '$lib/day';
  import type { CopyAnswers } from '$lib/state/intake.svelte';
  import DayField from '../../ui/DayField.svelte';

  interface Props {
    copies: CopyAnswers[];
    onchange: (copies: CopyAnswers[]) => void;
  }
  const { copies, onchange }: Props = $props();

  let opened = $state<string | null>(null);
  let kind = $state<CopyKind>('computer-backup');

  function add(): void {
    const used = new Set(copies.map(({ id }) => id));
    let n = copies.length + 1;
    while (used.has(`c${n}`)) n++;
    const id = `c${n}`;
    onchange([...copies, { id, kind }]);
    opened = id;
  }

  function change(id: string, told: Partial<CopyAnswers>): void {
    onchange(copies.map((copy) => (copy.id === id ? { ...copy, ...told } : copy)));
  }

  /** What is known of a copy's key, as the choice names it. */
  function keyOf({ encrypted, keyKnown }: CopyAnswers): string {
    if (typeof encrypted !== 'boolean') return '';
    if (!encrypted) return 'no';
    return keyKnown === true ? 'known' : keyKnown === false ? 'lost' : 'yes';
  }

  function factsOf({ encrypted, keyKnown, willBeOverwrittenBy, deepest }: CopyAnswers): string {
    return [
      encrypted === true ? 'encrypted' : '',
      encrypted === true && typeof keyKnown === 'boolean'
        ? `key ${keyKnown ? 'known' : 'not known'}`
        : '',
      willBeOverwrittenBy ? `replaced on ${dayText(willBeOverwrittenBy.slice(0, 10))}` : '',
      deepest ? `depth: ${deepest.replace('-', ' ')}` : ''
    ]
      .filter((fact) => fact !== '')
      .join(', ');
  }
</script>

<h2>Copies that exist</h2>
{#each copies as copy (copy.id)}
  <div class="copy">
    <button
      class="name"
      aria-expanded={opened === copy.id}
      onclick={() => (opened = opened === copy.id ? null : copy.id)}
      ><b>{copy.name || COPY_TITLES[copy.kind]}</b>
      <small>{factsOf(copy)}</small></button
    >
    <span>{copy.at ? dayText(copy.at.slice(0, 10)) : 'day not known'}</span>
    {#if opened === copy.id}
      <div class="grid">
        <label for="{copy.id}-kind">Kind</label>
        <select
          id="{copy.id}-kind"
          class="small-field"
          value={copy.kind}
          onchange={(event) => change(copy.id, { kind: event.currentTarget.value as CopyKind })}
        >
          {#each COPY_KINDS as one (one)}<option value={one}>{COPY_TITLES[one]}</option>{/each}
        </select>
        <label for="{copy.id}-name">Called</label>
        <input
          id="{copy.id}-name"
          class="small-field"
          type="text"
          maxlength="200"
          placeholder={COPY_TITLES[copy.kind]}
          value={copy.name ?? ''}
          oninput={(event) => change(copy.id, { name: event.currentTarget.value || null })}
        />
        <label for="{copy.id}-at">Made on</label>
        <DayField
          id="{copy.id}-at"
          label="Day on which the copy was made"
          value={copy.at?.slice(0, 10) ?? null}
          onchange={(at) => change(copy.id, { at })}
        />
        <label for="{copy.id}-until">Replaced on</label>
        <DayField
          id="{copy.id}-until"
          label="Day on which the copy is replaced"
          value={copy.willBeOverwrittenBy?.slice(0, 10) ?? null}
          near={copy.at?.slice(0, 10) ?? null}
          onchange={(willBeOverwrittenBy) => change(copy.id, { willBeOverwrittenBy })}
        />
        <label for="{copy.id}-deep">Depth</label>
        <select
          id="{copy.id}-deep"
          class="small-field"
          value={copy.deepest ?? ''}
          onchange={(event) =>
            change(copy.id, {
              deepest: (event.currentTarget.value || null) as CopyAnswers['deepest']
            })}
        >
          <option value="">not known</option>
          <option value="logical">what it hands out</option>
          <option value="file-system">its files</option>
          <option value="physical">bit for bit</option>
        </select>
        <label for="{copy.id}-key">Encrypted</label>
        <select
          id="{copy.id}-key"
          class="small-field"
          value={keyOf(copy)}
          onchange={({ currentTarget: { value } }) =>
            change(copy.id, {
              encrypted: value === '' ? null : value !== 'no',
              keyKnown: value === 'known' ? true : value === 'lost' ? false : null
            })}
        >
          <option value="">not known</option>
          <option value="no">no</option>
          <option value="yes">yes</option>
          <option value="known">yes, key known</option>
          <option value="lost">yes, key lost</option>
        </select>
        <span></span>
        <button class="link" onclick={() => onchange(copies.filter(({ id }) => id !== copy.id))}
          >Remove</button
        >
      </div>
    {/if}
  </div>
{/each}
<div class="add">
  <select class="small-field" bind:value={kind} aria-label="Kind of copy">
    {#each COPY_KINDS as one (one)}<option value={one}>{COPY_TITLES[one]}</option>{/each}
  </select>
  <button class="action quiet" onclick={add} disabled={copies.length >= MOST_COPIES}
    >Add a copy</button
  >
</div>

<style>
  h2 {
    font-size: 15px;
    margin: 16px 0 6px;
  }
  .copy {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 2px 12px;
    border-top: 1px solid var(--rule);
    padding: 7px 0;
    font-size: 13px;
    align-items: baseline;
  }
  .name {
    text-align: left;
    cursor: pointer;
  }
  .name b {
    font-weight: 600;
  }
  .name b::first-letter {
    text-transform: uppercase;
  }
  small {
    display: block;
    color: var(--soft);
    font-size: 12px;
  }
  .grid {
    grid-column: 1 / 3;
    display: grid;
    grid-template-columns: 90px minmax(0, 1fr);
    gap: 5px 8px;
    align-items: baseline;
    margin: 6px 0;
  }
  label {
    color: var(--soft);
    font-size: 12px;
  }
  .add {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 8px;
    border-top: 1px solid var(--rule);
    padding-top: 8px;
  }
  .link {
    justify-self: start;
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
  }
</style>
