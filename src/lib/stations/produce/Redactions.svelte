<script lang="ts">
  import type { Redaction } from '$core/produce';
  import { errorText } from '$lib/format';
  import { codes, codesOf } from '$lib/state/codes.svelte';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import type { PersonRow, RedactionView } from '$lib/service/api/protocol';
  import CodeField from '../../ui/CodeField.svelte';
  import ReasonList from './ReasonList.svelte';
  import { answersFor } from '$lib/state/latest';
  import RedactionRow from '../../ui/RedactionRow.svelte';

  interface Props {
    open: OpenCase;
    view: RedactionView;
    /** Called when redactions or reasons changed. */
    onchange: () => void;
    ongo: (correspondent: string, message: string) => void;
  }
  const { open, view, onchange, ongo }: Props = $props();

  let what = $state<'words' | 'line' | 'person' | 'others'>('words');
  let line = $state<number | null>(null);
  let words = $state('');
  let person = $state('');
  let problem = $state('');
  let people = $state.raw<PersonRow[]>([]);
  const known = $derived(
    codesOf(
      view.reasons,
      view.rows.map(({ code }) => code)
    )
  );

  const answers = answersFor(() => open);
  $effect(() => {
    void open.version;
    answers(open.desk.exhibits.people(), (rows) => (people = rows));
  });

  function report(error: unknown): void {
    open.failure = `The redaction was not kept: ${errorText(error)}`;
  }

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    problem = '';
    try {
      if (what === 'others') return await coverOthers(codes.last.trim());
      const found = await redaction(codes.last.trim());
      if (typeof found === 'string') problem = found;
      else if ('text' in found && !(await open.desk.exhibits.holds(found.text)))
        problem = `“${found.text}” stands nowhere in this case.`;
      else {
        await open.desk.exhibits.redact([found]);
        words = '';
        onchange();
      }
    } catch (error) {
      report(error);
    }
  }

  /** Covers everybody who takes part in none of the chosen conversations, and is not covered yet. */
  async function coverOthers(code: string): Promise<void> {
    const covered = new Set(
      view.rows.flatMap(({ redaction }) => ('person' in redaction ? [redaction.person] : []))
    );
    const others = (await open.desk.exhibits.others()).filter((id) => !covered.has(id));
    if (others.length === 0) problem = 'There is nobody else to be covered.';
    else {
      await open.desk.exhibits.redact(others.map((id) => ({ person: id, code })));
      onchange();
    }
  }

  /** What the form asks for, or what is wrong with it. */
  async function redaction(code: string): Promise<Redaction | string> {
    if (what === 'person') return person === '' ? 'Name a person.' : { person, code };
    if (what === 'words')
      return words.trim().length >= 2
        ? { text: words.trim(), code }
        : 'Give at least two characters to be covered.';
    const chosen = line === null ? null : await open.desk.exhibits.line(line);
    if (!chosen) return `Line ${line ?? '?'} is not on the exhibit list.`;
    if (words === '') return { message: chosen.id, whole: true, code };
    const from = chosen.body.indexOf(words);
    return from < 0
      ? `Line ${line} does not hold these words.`
      : { message: chosen.id, from, to: from + words.length, code };
  }

  async function takeBack(redaction: Redaction): Promise<void> {
    try {
      await open.desk.exhibits.takeBack(redaction);
      onchange();
    } catch (error) {
      report(error);
    }
  }
</script>

<form class="grid" onsubmit={(event) => void add(event)} aria-label="Redactions">
  <b>Redactions</b>
  <small
    >Covered in every format, and wherever else the same words appear. In Read, mark words or cover
    pictures in the details.</small
  >
  <label for="redact-what">Cover</label>
  <select class="small-field" id="redact-what" bind:value={what}>
    <option value="words">words, wherever they are</option>
    <option value="person">a person, wherever named</option>
    <option value="others">everybody but those who take part</option>
    <option value="line">a message, or words of it</option>
  </select>
  {#if what === 'others'}
    <span></span>
    <small
      >Everybody who is in no conversation of the exhibit list is covered by every name and address,
      wherever named. The owner is not.</small
    >
  {:else if what === 'person'}
    <label for="redact-person">Person</label>
    <select class="small-field" id="redact-person" bind:value={person} required>
      <option value="" disabled>select …</option>
      {#each people as row (row.id)}
        <option value={row.id}
          >{row.name}{row.address && row.address !== row.name ? `, ${row.address}` : ''}</option
        >
      {/each}
    </select>
  {:else}
    {#if what === 'line'}
      <label for="redact-line">Line</label>
      <input
        class="small-field"
        id="redact-line"
        type="number"
        min="1"
        required
        bind:value={line}
      />
    {/if}
    <label for="redact-words">Words</label>
    <input
      class="small-field"
      id="redact-words"
      type="text"
      placeholder={what === 'line' ? 'all of the message' : 'a name, a number, an address'}
      bind:value={words}
    />
  {/if}
  <label for="redact-code">Reason code</label>
  <CodeField id="redact-code" {known} />
  <span></span>
  <button class="action quiet">Redact</button>
</form>
{#if problem}<p class="problem" role="alert">{problem}</p>{/if}
{#if view.rows.length > 0}
  <ul>
    {#each view.rows as row, i (i)}
      <RedactionRow
        {row}
        ontake={() => void takeBack(row.redaction)}
        ongo={() => row.goTo && ongo(row.goTo.correspondent, row.goTo.message)}
      />
    {/each}
  </ul>
  <ReasonList
    codes={[...new Set(view.rows.map(({ code }) => code))]}
    reasons={view.reasons}
    onkeep={(reasons) => void open.desk.exhibits.setReasons(reasons).then(onchange).catch(report)}
  />
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
  ul {
    list-style: none;
    margin: 0 0 10px;
    padding: 0;
  }
  .problem {
    color: var(--alarm);
    font-size: 12px;
    margin: 4px 0;
  }
</style>
