<script lang="ts">
  import type { NeedView } from '$bench/devices';

  interface Props {
    needs: readonly NeedView[];
    /** What a passcode, PIN or password is called on this device; null where it has none. */
    keyName: string | null;
    /** Told because the device is simulated. */
    hint: string | null;
    refusal: string | null;
    onmend: (act: string, value?: string) => Promise<boolean>;
  }
  const { needs, keyName, hint, refusal, onmend }: Props = $props();

  const WITH_KEY: Record<string, string> = {
    unlock: 'Passcode',
    pin: 'PIN',
    'sign-in': 'Password'
  };
  const MARKS: Record<NeedView['state'], string> = {
    holds: '✓',
    missing: '✕',
    asked: '?',
    unanswered: '?',
    'not-needed': '–'
  };
  const WORDS: Record<NeedView['state'], string> = {
    holds: 'holds',
    missing: 'missing',
    asked: 'asked',
    unanswered: 'not answered',
    'not-needed': 'not needed'
  };

  let value = $state('');

  async function mend(event: SubmitEvent, act: string): Promise<void> {
    event.preventDefault();
    if (await onmend(act, value)) value = '';
  }
</script>

<ul>
  {#each needs as { id, title, state, told, mend: way }, i (i)}
    <li class={state}>
      <span class="sign" aria-hidden="true">{MARKS[state]}</span>
      <span class="title">{title} <span class="visually-hidden">: {WORDS[state]}</span></span>
      <span class="told">{told}</span>
      {#if way && keyName !== null && WITH_KEY[way.act]}
        <form onsubmit={(event) => mend(event, way.act)}>
          <label class="visually-hidden" for="key-{id}">{WITH_KEY[way.act]}</label>
          <input
            id="key-{id}"
            class="small-field"
            type="password"
            placeholder={WITH_KEY[way.act]}
            autocomplete="off"
            bind:value
          />
          <button class="action quiet">{way.label}</button>
          {#if hint}<small>It is simulated: {hint}</small>{/if}
        </form>
      {:else if way}
        <button class="action quiet" onclick={() => onmend(way.act)}>{way.label}</button>
      {/if}
    </li>
  {/each}
</ul>
{#if refusal}<p role="alert">{refusal}</p>{/if}

<style>
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  li {
    display: grid;
    grid-template-columns: 20px 220px minmax(0, 1fr) auto;
    gap: 4px 10px;
    align-items: baseline;
    min-height: 32px;
    padding: 5px 0;
    border-bottom: 1px solid var(--hair);
  }
  .told {
    color: var(--soft);
  }
  .sign {
    color: var(--accent);
    font-weight: 700;
  }
  .missing .sign {
    color: var(--alarm);
  }
  .asked .sign,
  .unanswered .sign {
    color: var(--ochre);
  }
  .missing .title,
  .asked .title,
  .unanswered .title {
    font-weight: 600;
  }
  .not-needed {
    color: var(--soft);
  }
  .not-needed .sign {
    color: var(--soft);
  }
  li > .action {
    padding: 1px 9px;
  }
  form {
    grid-column: 2 / -1;
    display: flex;
    flex-wrap: wrap;
    gap: 6px 8px;
    align-items: center;
  }
  form .small-field {
    width: 190px;
  }
  form .action {
    padding: 2px 9px;
  }
  small {
    color: var(--soft);
    font-size: 12px;
  }
  p {
    margin: 8px 0 0;
    color: var(--alarm);
  }
  @container (max-width: 560px) {
    li {
      grid-template-columns: 20px minmax(0, 1fr) auto;
    }
    .told {
      grid-column: 2 / -1;
    }
    li > .action {
      grid-column: 2;
      justify-self: start;
    }
  }
</style>
