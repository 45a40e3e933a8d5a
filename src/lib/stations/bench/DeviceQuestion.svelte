<script lang="ts">
  import type { QuestionView } from '$bench/devices';

  interface Props {
    question: QuestionView;
    /** Told because the device is simulated. */
    hint: string | null;
    refusal: string | null;
    onanswer: (isAllowed: boolean, value: string) => Promise<boolean>;
  }
  const { question, hint, refusal, onanswer }: Props = $props();

  let value = $state('');
  let now = $state(Date.now());
  const until = $derived(question.lapses === null ? null : Date.now() + question.lapses);

  $effect(() => {
    const timer = setInterval(() => (now = Date.now()), 1000);
    return () => clearInterval(timer);
  });

  async function allow(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await onanswer(true, value)) value = '';
  }
</script>

<section aria-label={question.heading} data-asks>
  <p class="soft">{question.heading}</p>
  <p class="text" role="status">{question.text}</p>
  <form onsubmit={allow}>
    {#if question.field}
      <label>
        <span>{question.field}</span>
        <input class="small-field" type="password" autocomplete="off" bind:value />
      </label>
    {/if}
    <div>
      <button class="action">{question.allow}</button>
      {#if question.refuse}
        <button class="action quiet" type="button" onclick={() => onanswer(false, '')}
          >{question.refuse}</button
        >
      {/if}
    </div>
  </form>
  {#if refusal}<p class="problem" role="alert">{refusal}</p>{/if}
  <p class="note">
    {#if hint}It is simulated, so you answer for the owner: {hint}{/if}
    {#if until !== null}
      If nobody answers within {Math.max(0, Math.ceil((until - now) / 1000))} s, it is asked again.
    {/if}
  </p>
</section>

<style>
  section {
    border: 1px solid var(--rule);
    background: var(--slate-wash);
    padding: 12px 16px;
  }
  p {
    margin: 0;
  }
  .text {
    font: 600 17px/1.35 var(--font-text);
    margin: 4px 0 10px;
  }
  form {
    display: grid;
    gap: 8px;
  }
  form div {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  label span {
    font-size: 12px;
  }
  .problem {
    color: var(--alarm);
    margin-top: 8px;
  }
  .note {
    font-size: 12px;
    color: var(--soft);
    margin-top: 8px;
  }
</style>
