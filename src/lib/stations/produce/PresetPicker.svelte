<script lang="ts">
  import { Menu, Portal } from '@skeletonlabs/skeleton-svelte';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import { settingsProblem, settingsSchema, type Settings } from '$core/produce';
  import { errorText } from '$lib/format';
  import { notices } from '$lib/state/notices';
  import { PRESETS } from '$lib/stations/produce/presets';
  import { saveBlob } from '$lib/state/save';
  import { deletePreset, savedPresets, savePreset } from '$lib/storage/presets';
  import type { PresetRecord } from '$lib/storage/schema';
  import FilePick from '../../ui/FilePick.svelte';
  import NameForm from './NameForm.svelte';

  interface Props {
    /** Settings as they stand; null while something is wrong with them. */
    settings: Settings | null;
    /** Id of the preset that they came from; empty where from none. */
    chosen: string;
    onpick: (settings: Settings) => void;
    onfail: (text: string) => void;
  }
  let { settings, chosen = $bindable(), onpick, onfail }: Props = $props();

  let own = $state.raw<PresetRecord[]>([]);
  let naming = $state(false);
  const isOwn = $derived(own.some(({ id }) => id === chosen));
  const title = $derived(own.find(({ id }) => id === chosen)?.title ?? '');
  let file = $state<FilePick>()!;

  const DEEDS = {
    name: () => (naming = true),
    remove: () => void remove(),
    exportFile,
    importFile: () => file.choose()
  };

  $effect(() => {
    savedPresets()
      .then((found) => (own = found))
      .catch((error: unknown) => onfail(errorText(error)));
  });

  function pick(): void {
    const found = [...PRESETS, ...own].find(({ id }) => id === chosen);
    if (found) onpick(structuredClone(found.settings));
  }

  async function keep(title: string): Promise<void> {
    if (!settings) return;
    try {
      const { id } = await savePreset(title, settings);
      own = await savedPresets();
      chosen = id;
    } catch (error) {
      onfail(`The settings were not saved: ${errorText(error)}`);
    }
  }

  async function remove(): Promise<void> {
    try {
      const gone = own.find(({ id }) => id === chosen)!;
      await deletePreset(gone.id);
      own = await savedPresets();
      chosen = '';
      notices.create({
        title: `${gone.title} was deleted.`,
        action: {
          label: 'Undo',
          onClick: () =>
            void savePreset(gone.title, gone.settings)
              .then(savedPresets)
              .then((found) => (own = found))
        }
      });
    } catch (error) {
      onfail(errorText(error));
    }
  }

  /** The same file that the command takes. */
  function exportFile(): void {
    if (!settings) return;
    const { exhibits: _, ...rest } = settings;
    const kept = { ...rest, pdf: { ...rest.pdf, password: null } };
    const blob = new Blob([`${JSON.stringify(kept, null, 2)}\n`], { type: 'application/json' });
    saveBlob(blob, 'production-settings.json');
  }

  async function take([file]: File[]): Promise<void> {
    if (!file) return;
    try {
      const read = settingsSchema.safeParse(JSON.parse(await file.text()));
      if (read.success) {
        chosen = '';
        onpick(read.data);
      } else onfail(`${file.name} holds no settings: ${settingsProblem(read.error)}.`);
    } catch (error) {
      onfail(`${file.name} holds no settings: ${errorText(error)}`);
    }
  }
</script>

<label for="preset">Settings for</label>
<select class="small-field" id="preset" bind:value={chosen} onchange={pick}>
  {#each PRESETS as known (known.id)}<option value={known.id}>{known.title}</option>{/each}
  {#each own as known (known.id)}<option value={known.id}>{known.title}</option>{/each}
  {#if chosen === ''}<option value="">last used</option>{/if}
</select>
{#if naming}
  <NameForm
    label="Name of these settings"
    placeholder="For the district court"
    value={title}
    onkeep={(title) => void keep(title)}
    onclose={() => (naming = false)}
  />
{:else}
  <p>
    <Menu
      onSelect={({ value }) => DEEDS[value as keyof typeof DEEDS]()}
      positioning={{ placement: 'bottom-start' }}
    >
      <Menu.Trigger class="action quiet">Save or share <ChevronDown size={13} /></Menu.Trigger>
      <Portal>
        <Menu.Positioner class="over">
          <Menu.Content class="menu-sheet">
            <Menu.Item value="name" disabled={!settings}>Save as …</Menu.Item>
            {#if isOwn}<Menu.Item value="remove">Delete {title}</Menu.Item>{/if}
            <Menu.Separator />
            <Menu.Item value="exportFile" disabled={!settings}>Save to a file</Menu.Item>
            <Menu.Item value="importFile">Load from file</Menu.Item>
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu>
    <FilePick
      bind:this={file}
      title="Load from file"
      testid="preset-file"
      class="visually-hidden"
      accept="application/json,.json"
      onpick={take}
    />
  </p>
{/if}

<style>
  label {
    color: var(--soft);
    font-size: 12px;
    display: block;
    margin-top: 8px;
  }
  p {
    font-size: 12px;
    margin: 6px 0;
    color: var(--soft);
  }
</style>
