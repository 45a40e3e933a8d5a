<script lang="ts">
  import { TagsInput } from '@skeletonlabs/skeleton-svelte';
  import { errorText } from '$lib/format';
  import { answersFor } from '$lib/state/latest';
  import type { OpenCase } from '$lib/state/desk.svelte';

  interface Props {
    open: OpenCase;
    of: string;
    kind: 'line' | 'file';
    onchange?: () => void;
  }
  const { open, of, kind, onchange }: Props = $props();
  const word = $derived(kind === 'line' ? 'message' : 'file');

  let text = $state('');
  let labels = $state.raw<string[]>([]);
  let known = $state.raw<string[]>([]);
  const [answers, answersOfAll] = [answersFor(() => open), answersFor(() => open)];

  $effect(() => {
    answersOfAll(open.desk.notes.labels(), (all) => (known = all.map(([label]) => label)));
    answers(open.desk.notes.of(of), (note) => {
      text = note?.text ?? '';
      labels = note?.labels ?? [];
    });
  });

  async function keep(): Promise<void> {
    try {
      await open.desk.notes.keep({ of, kind, text, labels });
      onchange?.();
    } catch (error) {
      open.failure = `The note was not kept: ${errorText(error)}`;
    }
  }

  function label(values: string[]): void {
    labels = values;
    void keep();
  }

  const offered = $derived(known.filter((one) => !labels.includes(one)).slice(0, 6));
</script>

<section>
  <h3>Note</h3>
  <textarea
    class="small-field"
    rows="2"
    maxlength="4000"
    aria-label="Note on this {word}"
    placeholder="What should be remembered about this {word}"
    bind:value={text}
    onchange={() => void keep()}></textarea>
  <TagsInput
    value={labels}
    onValueChange={(details) => label(details.value)}
    addOnPaste
    blurBehavior="add"
  >
    <TagsInput.Label class="soft">Labels</TagsInput.Label>
    <TagsInput.Control class="tags">
      <TagsInput.Context>
        {#snippet children(tags)}
          {#each tags().value as value, index (value)}
            <TagsInput.Item {value} {index}>
              <TagsInput.ItemPreview>
                <TagsInput.ItemText>{value}</TagsInput.ItemText>
                <TagsInput.ItemDeleteTrigger aria-label="Remove label {value}"
                  >×</TagsInput.ItemDeleteTrigger
                >
              </TagsInput.ItemPreview>
              <TagsInput.ItemInput />
            </TagsInput.Item>
          {/each}
          <TagsInput.Input placeholder="Add a label">
            <!-- Under the part's own name the component would have no frame. -->
            {#snippet element(attributes)}<input
                {...attributes}
                data-part="entry"
                class="small-field"
              />{/snippet}
          </TagsInput.Input>
        {/snippet}
      </TagsInput.Context>
    </TagsInput.Control>
    <TagsInput.HiddenInput />
  </TagsInput>
  {#if offered.length > 0}
    <p class="offers">
      {#each offered as one, i (i)}<button onclick={() => label([...labels, one])}>+ {one}</button
        >{/each}
    </p>
  {/if}
</section>

<style>
  h3 {
    font: 600 12px var(--font-plain);
    color: var(--soft);
    margin: 14px 0 5px;
  }
  textarea {
    resize: vertical;
  }
  section :global(.tags) {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    background: none;
    border: 0;
    box-shadow: none;
    padding: 0;
  }
  section :global(.tags input) {
    flex: 1;
    min-width: 90px;
  }
  section :global([data-part='item-preview']) {
    display: inline-flex;
    gap: 6px;
    background: var(--accent-wash);
    color: var(--ink);
    border-radius: 3px;
    padding: 1px 8px;
    font-size: 12.5px;
  }
  section :global([data-part='item-delete-trigger']) {
    cursor: pointer;
  }
  .offers {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 10px;
    margin: 4px 0 0;
  }
  .offers button {
    color: var(--accent);
    cursor: pointer;
    font-size: 12px;
  }
</style>
