<script lang="ts">
  import type { Settings } from '$core/produce';

  type Redaction = Settings['redactions'][number];

  interface Props {
    redactions: Redaction[];
    /** The chosen line of a number; null where that is none. */
    lineOf: (line: number) => Promise<{ id: string; body: string } | null>;
  }
  let { redactions = $bindable(), lineOf }: Props = $props();

  let line = $state<number | null>(null);
  let words = $state('');
  let code = $state('');
  let problem = $state('');
  /** Lines by message, to say which one a redaction is in. */
  let lines = $state<Record<string, number>>({});

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    problem = '';
    const found = await redaction();
    if (!found) return;
    redactions = [...redactions, found];
    words = '';
  }

  async function redaction(): Promise<Redaction | null> {
    if (line === null) {
      if (words.trim().length >= 2) return { text: words, code: code.trim() };
      problem = 'Name a line, or the words that are to be covered wherever they stand.';
      return null;
    }
    const chosen = await lineOf(line);
    if (!chosen) {
      problem = `Line ${line} is not on the exhibit list.`;
      return null;
    }
    lines = { ...lines, [chosen.id]: line };
    if (words === '') return { message: chosen.id, whole: true, code: code.trim() };
    const from = chosen.body.indexOf(words);
    if (from < 0) {
      problem = `Line ${line} does not hold these words.`;
      return null;
    }
    return { message: chosen.id, from, to: from + words.length, code: code.trim() };
  }

  function toldOf(redaction: Redaction): string {
    if ('text' in redaction) return `“${redaction.text}” everywhere`;
    if ('attachment' in redaction) return 'a file';
    const number = lines[redaction.message];
    const where = number === undefined ? 'a line' : `line ${number}`;
    return 'whole' in redaction
      ? `all of ${where}`
      : `${redaction.to - redaction.from} characters of ${where}`;
  }
</script>

<form class="grid" onsubmit={(event) => void add(event)} aria-label="Redactions">
  <b>Redactions</b>
  <small>Covered in every format, and wherever else the same words stand.</small>
  <label for="redact-line">Line</label>
  <input id="redact-line" type="number" min="1" placeholder="any" bind:value={line} />
  <label for="redact-words">Words</label>
  <input id="redact-words" type="text" placeholder="all of the line" bind:value={words} />
  <label for="redact-code">Reason code</label>
  <input
    id="redact-code"
    type="text"
    maxlength="24"
    required
    placeholder="PRIV"
    bind:value={code}
  />
  <span></span>
  <button class="action quiet">Redact</button>
</form>
{#if problem}<p class="problem" role="alert">{problem}</p>{/if}
{#if redactions.length > 0}
  <ul>
    {#each redactions as redaction, i (i)}
      <li>
        <span class="bar">{redaction.code}</span>
        <span>{toldOf(redaction)}</span>
        <button
          onclick={() => (redactions = redactions.filter((_, at) => at !== i))}
          aria-label="Take back redaction {i + 1}">Take back</button
        >
      </li>
    {/each}
  </ul>
{/if}

<style>
  .grid {
    display: grid;
    grid-template-columns: 88px minmax(0, 1fr);
    align-items: center;
    gap: 5px 8px;
    margin: 12px 0 6px;
  }
  b,
  small {
    grid-column: 1 / 3;
  }
  small,
  label {
    color: var(--soft);
    font-size: 12px;
  }
  input {
    font: inherit;
    font-size: 13px;
    min-width: 0;
    width: 100%;
    padding: 3px 7px;
    border: 1px solid var(--rule);
    border-radius: 2px;
    background: var(--sheet);
    color: var(--ink);
  }
  ul {
    list-style: none;
    margin: 0 0 10px;
    padding: 0;
    font-size: 12px;
  }
  li {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr) auto;
    gap: 8px;
    align-items: center;
    padding: 3px 0;
    border-bottom: 1px solid var(--hair);
    overflow-wrap: anywhere;
  }
  .bar {
    background: var(--ink);
    color: var(--paper);
    font: 600 11px/1.5 var(--font-code);
    padding: 0 8px;
  }
  li button {
    color: var(--soft);
    text-decoration: underline;
    cursor: pointer;
  }
  .problem {
    color: var(--alarm);
    font-size: 12px;
    margin: 4px 0;
  }
</style>
