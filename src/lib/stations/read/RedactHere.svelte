<script lang="ts">
  import type { Redaction } from '$core/produce';
  import { errorText } from '$lib/format';
  import { codes, codesOf } from '$lib/state/codes.svelte';
  import type { OpenCase } from '$lib/state/desk.svelte';
  import { placeIn } from '$lib/stations/read/marked-place';
  import { marked } from '$lib/stations/read/marked.svelte';
  import type { LineDetail, LineFile, RedactionView } from '$lib/service/api/protocol';
  import CodeField from '../../ui/CodeField.svelte';
  import PictureAreas from './PictureAreas.svelte';
  import { answersFor } from '$lib/state/latest';
  import RedactionRow from '../../ui/RedactionRow.svelte';

  interface Props {
    open: OpenCase;
    detail: LineDetail;
    /** Place of the line in its conversation. */
    index: number;
    onchange: () => void;
  }
  const { open, detail, index, onchange }: Props = $props();

  let view = $state.raw<RedactionView>({ rows: [], reasons: [] });
  let picture = $state.raw<LineFile | null>(null);
  let form = $state<HTMLFormElement>();
  const known = $derived(
    codesOf(
      view.reasons,
      view.rows.map(({ code }) => code)
    )
  );
  const words = $derived(marked.words?.index === index ? marked.words : null);
  const place = $derived(words && placeIn(detail.message.body, words));

  const answers = answersFor(() => open);
  $effect(() => {
    void detail;
    answers(open.desk.exhibits.redactions(), (told) => (view = told));
  });

  function report(error: unknown): void {
    open.failure = `The redaction was not kept: ${errorText(error)}`;
  }

  function ready(): boolean {
    return form?.reportValidity() ?? false;
  }

  async function keep(redactions: Redaction[]): Promise<void> {
    try {
      await open.desk.exhibits.redact(redactions);
      marked.words = null;
      onchange();
    } catch (error) {
      report(error);
    }
  }

  function cover(redaction: { from: number; to: number } | { whole: true }): void {
    if (!ready()) return;
    const code = codes.last.trim();
    void keep([{ message: detail.message.id, ...redaction, code }]);
  }

  function coverFile({ id }: LineFile): void {
    if (ready()) void keep([{ attachment: id, whole: true, code: codes.last.trim() }]);
  }
</script>

<svelte:document onselectionchange={() => marked.read()} />

<section>
  <h3>Redact</h3>
  <form bind:this={form} onsubmit={(event) => event.preventDefault()}>
    <label for="margin-code">Reason code</label>
    <CodeField id="margin-code" {known} />
  </form>
  <p class="acts">
    <button
      class="action quiet"
      disabled={!place}
      title="Mark words of the message first"
      onclick={() => place && cover(place)}
      >{place
        ? `Cover “${words!.text.length > 18 ? `${words!.text.slice(0, 18)}…` : words!.text}”`
        : 'Cover marked words'}</button
    >
    <button class="action quiet" onclick={() => cover({ whole: true })}>Cover the message</button>
    {#each detail.files as file (file.id)}
      <button class="action quiet" onclick={() => coverFile(file)}>Cover {file.name}</button>
      {#if file.mime?.startsWith('image/') && !file.missing}
        <button
          class="action quiet"
          onclick={() => {
            if (ready()) picture = file;
          }}>Cover part of {file.name} …</button
        >
      {/if}
    {/each}
  </p>
  {#if detail.redactions.length > 0}
    <ul>
      {#each detail.redactions as row, i (i)}
        <RedactionRow
          {row}
          ontake={() =>
            void open.desk.exhibits.takeBack(row.redaction).then(onchange).catch(report)}
        />
      {/each}
    </ul>
  {/if}
</section>

{#if picture}
  {@const file = picture}
  <PictureAreas
    {open}
    {file}
    onclose={() => (picture = null)}
    onkeep={(areas) => {
      const { id } = file;
      const code = codes.last.trim();
      picture = null;
      void keep(areas.map((area) => ({ attachment: id, area, code })));
    }}
  />
{/if}

<style>
  h3 {
    font: 600 12px var(--font-plain);
    color: var(--soft);
    margin: 14px 0 5px;
    letter-spacing: 0.2px;
  }
  form {
    display: grid;
    grid-template-columns: auto minmax(0, 1fr);
    gap: 8px;
    align-items: center;
    font-size: 12px;
    color: var(--soft);
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin: 8px 0;
  }
  .acts .action {
    padding: 2px 8px;
    font-size: 12px;
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  ul {
    list-style: none;
    margin: 4px 0 0;
    padding: 0;
  }
</style>
