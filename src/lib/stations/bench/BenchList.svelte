<script lang="ts">
  import type { DeviceView } from '$bench/devices';

  interface Props {
    devices: readonly DeviceView[];
    selected: string | null;
    onselect: (id: string) => void;
    onreset: () => void;
  }
  const { devices, selected, onselect, onreset }: Props = $props();
</script>

<nav aria-label="What is on the bench">
  <h1>Bench</h1>
  <p class="soft">Devices, cards and accounts within reach. All of them are simulated.</p>
  <ul>
    {#each devices as { id, name, detail, status } (id)}
      <li>
        <button
          aria-current={id === selected ? 'true' : undefined}
          class:on={id === selected}
          onclick={() => onselect(id)}
        >
          <b>{name}</b>
          <span class="status">{status}</span>
          <small>{detail}</small>
        </button>
      </li>
    {/each}
  </ul>
  <button class="link" onclick={onreset}>Reset all devices</button>
</nav>

<style>
  nav {
    border-right: 1px solid var(--rule);
    background: var(--paper);
    overflow: auto;
    padding: 16px 0;
  }
  h1 {
    font-size: 20px;
    padding: 0 20px;
  }
  p {
    margin: 6px 0 12px;
    padding: 0 20px;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
    border-top: 1px solid var(--rule);
  }
  li button {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 2px 10px;
    width: 100%;
    text-align: left;
    padding: 9px 20px 10px 17px;
    border: 0;
    border-left: 3px solid transparent;
    border-bottom: 1px solid var(--hair);
    background: none;
    color: inherit;
    cursor: pointer;
  }
  li button:hover {
    background: var(--sheet);
  }
  li .on {
    border-left-color: var(--accent);
    background: var(--accent-wash);
  }
  b {
    font: 600 15px var(--font-text);
    overflow-wrap: anywhere;
  }
  .status,
  small {
    color: var(--soft);
    font-size: 12px;
  }
  small {
    grid-column: 1 / -1;
  }
  .link {
    margin: 14px 20px;
    color: var(--accent);
    font-weight: 600;
    cursor: pointer;
    text-align: left;
  }
  @media (max-width: 900px) {
    nav {
      border-right: 0;
      border-bottom: 1px solid var(--rule);
    }
  }
</style>
