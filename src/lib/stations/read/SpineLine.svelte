<script lang="ts">
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { Line, LineGap } from '$lib/service/api/protocol';
  import { isCut } from '$core/records';
  import { drawable, MOST_DRAWN } from '$lib/stations/read/drawn';
  import { withDays } from '$lib/day';
  import { count } from '$lib/format';
  import Highlight from './Highlight.svelte';
  import LineAttachment from './LineAttachment.svelte';
  import { MARKS, markOf } from '../../ui/marks';

  interface Props {
    line: Line;
    open: OpenCase;
    index: number;
    total: number;
    focused: boolean;
    query: string;
    onfocus: () => void;
    onchoose: () => void;
    /** Chooses the lines of its day. */
    onday: () => void;
  }
  const { line, open, index, total, focused, query, onfocus, onchoose, onday }: Props = $props();

  /** The whole of a long body was asked for. */
  let whole = $state(false);
  const body = $derived(whole ? line.body : drawable(line.body));
  const word = $derived(MARKS.find(({ state }) => state === line.state)!.word);

  /** Tab goes through the line in focus alone: a conversation can have thousands. */
  const tab = $derived(focused ? 0 : -1);
</script>

{#snippet gap({ count: n, shownBy, bounds }: LineGap)}
  <details class="gap">
    <summary tabindex={tab}><b>┄ {count(n)} missing</b> <small>{shownBy}</small></summary>
    <p>{withDays(bounds)}</p>
  </details>
{/snippet}

<!-- svelte-ignore a11y_no_noninteractive_tabindex (a feed's articles take focus) -->
<article
  id="line-{index}"
  tabindex={tab}
  aria-posinset={index + 1}
  aria-setsize={total}
  aria-label="Line {line.number ||
    'not yet numbered'}, {line.time}, {line.sender}, {word}{line.chosen ? ', selected' : ''}"
  onfocusin={onfocus}
>
  {#each line.gapsBefore as missing, i (i)}{@render gap(missing)}{/each}
  {#if line.day}
    <h3 class="day">
      <span
        >{line.day}
        <button onclick={onday} tabindex={tab} aria-label="Select the messages of {line.day}"
          >select day</button
        ></span
      >
    </h3>
  {/if}
  <div class="line {line.side} {line.state}" class:focused class:chosen={line.chosen}>
    <div class="text" dir="auto">
      {#if line.speaker}<p class="speaker">{line.speaker}</p>{/if}
      <div class="said">
        {#if line.subject}<p><b>{line.subject}</b></p>{/if}
        {#if line.body}<p class="body" dir="auto">
            <Highlight text={body} {query} lost={isCut(line)} />
          </p>
          {#if line.body.length > MOST_DRAWN && !whole}<button
              class="action quiet"
              tabindex={tab}
              onclick={() => (whole = true)}>Show all {count(line.body.length)} characters</button
            >{/if}{/if}
        {#each line.attachments as file, i (i)}
          <LineAttachment {file} {open} {tab} files={line.attachments} />
        {/each}
        {#if line.note || line.labels.length > 0}
          <p class="note">
            {#each line.labels as label, n (n)}<span>{label}</span>{/each}
            {line.note}
          </p>
        {/if}
        {#if line.codes.length > 0}
          <p class="codes">
            {#each line.codes as code, i (i)}<span title="A redaction covers a part of this line"
                >{code}</span
              >{/each}
          </p>
        {/if}
      </div>
    </div>
    <div class="spine">
      <button
        class="pick"
        onclick={onchoose}
        aria-pressed={line.chosen}
        aria-label="{line.chosen ? 'Unselect' : 'Select'} line {line.number}"
        tabindex="-1"
      >
        <b>{line.number || '·'}</b>
        {line.time} <span class="glyph" title={word} aria-hidden="true">{markOf(line.state)}</span>
      </button>
    </div>
  </div>
  {#each line.gapsAfter as missing, i (i)}{@render gap(missing)}{/each}
</article>

<style>
  article {
    outline: none;
  }
  .day {
    display: grid;
    grid-template-columns: 1fr auto 1fr;
    align-items: center;
    gap: 14px;
    padding: 9px 26px 7px;
    color: var(--soft);
    font: 600 12px var(--font-plain);
    letter-spacing: 0.3px;
  }
  .day::before,
  .day::after {
    content: '';
    border-top: 1px solid var(--rule);
  }
  .day span {
    position: relative;
  }
  .day button {
    position: absolute;
    left: 100%;
    white-space: nowrap;
    background: var(--sheet);
    padding-right: 8px;
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
    font-weight: 400;
    margin-left: 6px;
    opacity: 0;
  }
  .day:hover button,
  .day button:focus-visible {
    opacity: 1;
  }
  @media (hover: none) {
    .day span {
      position: relative;
    }
    .day button {
      position: absolute;
      left: 100%;
      white-space: nowrap;
      background: var(--sheet);
      padding-right: 8px;
      opacity: 1;
    }
  }
  /* In the margin that runs down the middle, as wide as it. */
  .gap {
    color: var(--soft);
    font: 12px/1.35 var(--font-plain);
    text-align: center;
  }
  .gap summary {
    width: 134px;
    margin: 0 auto;
    padding: 5px 6px;
    border-inline: 1px solid var(--rule);
    list-style: none;
    cursor: pointer;
  }
  .gap summary::-webkit-details-marker {
    display: none;
  }
  .gap b {
    font-weight: 600;
    white-space: nowrap;
  }
  .gap small {
    display: block;
    font-size: 11px;
    overflow-wrap: anywhere;
  }
  .gap p {
    padding: 2px 26px 6px;
  }
  .line {
    position: relative;
    display: grid;
    grid-template-columns: 1fr 134px 1fr;
    font: 15.5px/1.42 var(--font-text);
  }
  .focused {
    outline: 2px solid var(--accent);
    outline-offset: -2px;
    background: var(--lit);
  }
  .chosen::before {
    content: '';
    position: absolute;
    inset: 0 auto 0 0;
    width: 6px;
    background: var(--accent);
  }
  .text {
    padding: 5px 14px;
    min-width: 0;
    grid-row: 1;
  }
  .other .text {
    grid-column: 1;
    padding-left: 26px;
  }
  .own .text {
    grid-column: 3;
    padding-right: 26px;
  }
  .both .text {
    grid-column: 1 / 4;
    padding-inline: 26px;
    text-align: center;
  }
  .spine {
    grid-column: 2;
    grid-row: 1;
    border-inline: 1px solid var(--hair);
    text-align: center;
  }
  .both .spine {
    grid-row: 2;
  }
  .pick {
    all: unset;
    box-sizing: border-box;
    width: 100%;
    cursor: pointer;
    font: 11px/1.9 var(--font-code);
    color: var(--soft);
    padding: 5px 2px;
    white-space: nowrap;
  }
  .pick:hover {
    background: var(--accent-wash);
  }
  .pick b {
    color: var(--ink);
    font-weight: 400;
  }
  .glyph {
    color: var(--tone);
  }
  p {
    margin: 0;
  }
  .body {
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  .codes {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
    margin-top: 3px;
  }
  .codes span {
    background: var(--ink);
    color: var(--paper);
    font: 600 10.5px/1.6 var(--font-code);
    padding: 0 9px;
  }
  .note {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 7px;
    margin-top: 3px;
    font: italic 12.5px/1.5 var(--font-text);
    color: var(--accent);
  }
  .note span {
    font: 600 11px/1.6 var(--font-plain);
    border: 1px solid var(--accent);
    border-radius: 3px;
    padding: 0 6px;
  }
  .speaker {
    font-variant: small-caps;
    font-size: 13.5px;
    color: var(--soft);
    letter-spacing: 0.4px;
  }
  .line:not(.live) .said {
    background: linear-gradient(90deg, var(--wash), transparent 80%);
    border-left: 2px dotted var(--tone);
    padding: 1px 10px;
    margin-left: -12px;
  }
  .own:not(.live) .said {
    background: linear-gradient(270deg, var(--wash), transparent 80%);
    border-left: 0;
    border-right: 2px dotted var(--tone);
    margin-left: 0;
    margin-right: -12px;
  }
  :global([data-density='compact']) .line {
    font-size: 13.5px;
    line-height: 1.35;
  }
  :global([data-density='compact']) .text {
    padding-block: 2px;
  }
  :global([data-density='compact']) .pick {
    padding-block: 2px;
    line-height: 1.6;
  }
  @container spine (max-width: 560px) {
    .line {
      grid-template-columns: 1fr 76px 1fr;
    }
    .pick {
      white-space: normal;
      line-height: 1.5;
    }
    .text,
    .other .text,
    .own .text {
      padding-inline: 10px;
    }
    .day {
      padding-inline: 10px;
    }
  }
</style>
