<script lang="ts">
  import { settingsProblem, settingsSchema, type Settings } from '$core/produce';
  import { errorText } from '$lib/format';
  import { notices } from '$lib/state/notices';
  import { PRESETS } from '$lib/state/presets';
  import { saveBlob } from '$lib/state/save';
  import { deletePreset, savedPresets, savePreset } from '$lib/storage/presets';
  import type { PresetRecord } from '$lib/storage/schema';
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

  async function importFile(files: FileList | null): Promise<void> {
    const file = files?.[0];
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
  {#if chosen === ''}<option value="">as they were left</option>{/if}
</select>
{#if naming}
  <NameForm
    label="Name of these settings"
    placeholder="For the district court"
    value={own.find(({ id }) => id === chosen)?.title ?? ''}
    onkeep={(title) => void keep(title)}
    onclose={() => (naming = false)}
  />
{:else}
  <p>
    <button disabled={!settings} onclick={() => (naming = true)}>Save as …</button>
    {#if isOwn}· <button onclick={() => void remove()}>Delete</button>{/if}
    · <button disabled={!settings} onclick={exportFile}>to a file</button> ·
    <label
      >from a file<input
        class="visually-hidden"
        type="file"
        accept="application/json,.json"
        onchange={(event) => void importFile(event.currentTarget.files)}
      /></label
    >
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
  p button,
  p label {
    color: var(--accent);
    text-decoration: underline;
    cursor: pointer;
    display: inline;
    font-size: 12px;
  }
  p label:focus-within {
    outline: 2px solid var(--accent);
  }
</style>
