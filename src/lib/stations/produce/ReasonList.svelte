<script lang="ts">
  import type { Reason } from '$core/produce';

  interface Props {
    /** Codes in use. */
    codes: string[];
    reasons: Reason[];
    onkeep: (reasons: Reason[]) => void;
  }
  const { codes, reasons, onkeep }: Props = $props();

  function keep(code: string, reason: string): void {
    const others = reasons.filter((one) => one.code !== code);
    onkeep(reason.trim() === '' ? others : [...others, { code, reason: reason.trim() }]);
  }
</script>

<div class="grid">
  <small>What the codes stand for, as the log of redactions will say</small>
  {#each codes as code, i (i)}
    <label for="reason-{code}" class="mono">{code}</label>
    <input
      class="small-field"
      id="reason-{code}"
      type="text"
      maxlength="200"
      placeholder="why it is covered"
      value={reasons.find((one) => one.code === code)?.reason ?? ''}
      onchange={(event) => keep(code, event.currentTarget.value)}
    />
  {/each}
</div>

<style>
  .grid {
    display: grid;
    grid-template-columns: 88px minmax(0, 1fr);
    align-items: center;
    gap: 5px 8px;
    margin: 0 0 12px;
  }
  small {
    grid-column: 1 / 3;
    color: var(--soft);
    font-size: 12px;
  }
  label {
    font-size: 12px;
  }
</style>
