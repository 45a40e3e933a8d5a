<script lang="ts">
  import ZoneField from './ZoneField.svelte';

  /** What a case is called, whose it is, and in which zone its times are shown. */
  interface Props {
    name: string;
    client: string;
    zone: string;
    done: string;
    onkeep: (details: { name: string; client: string; zone: string }) => unknown;
    oncancel: () => void;
  }
  const { name, client, zone, done, onkeep, oncancel }: Props = $props();

  // svelte-ignore state_referenced_locally
  let [ownName, ownClient, ownZone] = $state([name, client, zone]);

  function keep(event: SubmitEvent): void {
    event.preventDefault();
    onkeep({ name: ownName.trim() || 'Untitled case', client: ownClient.trim(), zone: ownZone });
  }
</script>

<form onsubmit={keep}>
  <label
    >Case <input
      class="field"
      bind:value={ownName}
      placeholder="Its name, as records will show it"
      required
    /></label
  >
  <label
    >Client <input
      class="field"
      bind:value={ownClient}
      placeholder="Whose phone or account it is"
    /></label
  >
  <label>Time zone <ZoneField bind:zone={ownZone} /></label>
  <div class="buttons">
    <button type="button" class="action quiet" onclick={oncancel}>Cancel</button>
    <button class="action main">{done}</button>
  </div>
</form>

<style>
  form {
    display: grid;
    gap: 12px;
  }
  label {
    display: grid;
    gap: 4px;
    color: var(--soft);
  }
  .buttons {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
    margin-top: 6px;
  }
</style>
