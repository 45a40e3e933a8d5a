<script lang="ts" generics="Value extends string">
  interface Props {
    label: string;
    options: readonly (readonly [Value, string])[];
    /** Chosen ones; of a single choice at most one. */
    value: readonly Value[];
    /** Several can be chosen. */
    many?: boolean;
    onchange: (value: Value[]) => void;
  }
  const { label, options, value, many = false, onchange }: Props = $props();

  function toggle(option: Value): void {
    const isOn = value.includes(option);
    if (many) onchange(isOn ? value.filter((one) => one !== option) : [...value, option]);
    else onchange(isOn ? [] : [option]);
  }
</script>

<div role="group" aria-label={label}>
  {#each options as [option, title] (option)}
    <button
      type="button"
      aria-pressed={value.includes(option)}
      class:on={value.includes(option)}
      onclick={() => toggle(option)}>{title}</button
    >
  {/each}
</div>

<style>
  div {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
  }
  button {
    border: 1px solid var(--rule);
    border-radius: 2px;
    padding: 2px 9px;
    background: var(--sheet);
    color: var(--soft);
    cursor: pointer;
    font-size: 13px;
  }
  .on {
    border-color: var(--accent);
    color: var(--accent);
    font-weight: 600;
    background: var(--accent-wash);
  }
</style>
