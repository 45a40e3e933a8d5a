<script lang="ts">
  interface Props {
    label: string;
    placeholder: string;
    value: string;
    onkeep: (name: string) => void;
    onclose: () => void;
  }
  const { label, placeholder, value, onkeep, onclose }: Props = $props();

  function keep(event: SubmitEvent): void {
    event.preventDefault();
    const name = String(new FormData(event.target as HTMLFormElement).get('name') ?? '').trim();
    if (name !== '') onkeep(name);
    onclose();
  }

  function focus(element: HTMLInputElement): void {
    element.focus();
    element.select();
  }
</script>

<form onsubmit={keep}>
  <input
    class="small-field"
    type="text"
    name="name"
    maxlength="80"
    aria-label={label}
    {placeholder}
    {value}
    use:focus
    onkeydown={(event) => event.key === 'Escape' && onclose()}
  />
  <button class="action quiet">Keep</button>
</form>

<style>
  form {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 6px;
    margin: 6px 0;
  }
</style>
