<script lang="ts">
  import type { DeviceView } from '$bench/devices';

  interface Props {
    device: DeviceView;
    onarm: (fault: string) => void;
  }
  const { device, onarm }: Props = $props();

  const WORDS: Record<string, string> = {
    unplugged: 'it is unplugged',
    'battery-empty': 'its battery runs out',
    'permission-withdrawn': 'permission is withdrawn',
    'no-room': 'there is no room left',
    'read-error': 'a block cannot be read',
    'connection-lost': 'the connection is lost',
    'limit-reached': 'the account’s limit is reached',
    'card-removed': 'the card is taken out'
  };
</script>

<label>
  <span>For practice, during the next copy</span>
  <select
    class="small-field"
    value={device.armed ?? ''}
    onchange={(event) => onarm(event.currentTarget.value)}
  >
    <option value="">No fault</option>
    {#each device.faults as fault (fault)}<option value={fault}>{WORDS[fault] ?? fault}</option
      >{/each}
  </select>
</label>

<style>
  label {
    display: grid;
    gap: 3px;
  }
  span {
    font-size: 12px;
    color: var(--soft);
  }
</style>
