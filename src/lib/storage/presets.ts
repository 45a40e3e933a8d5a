import type { Settings } from '$core/produce';
import { openStorage } from './open';
import type { PresetRecord } from './schema';

/** Settings that were saved under a name, for all cases. */
export async function savedPresets(): Promise<PresetRecord[]> {
  const all = await (await openStorage()).getAll('presets');
  return all.sort((a, b) => a.title.localeCompare(b.title));
}

/** Saves settings under a name; without what belongs to a case, and without a password. */
export async function savePreset(title: string, settings: Settings): Promise<PresetRecord> {
  const known = (await savedPresets()).find((preset) => preset.title === title);
  const { exhibits: _, ...rest } = settings;
  const pdf = { ...rest.pdf, password: null };
  const kept = { ...rest, pdf, redactions: [], reasons: [] };
  const record = { id: known?.id ?? crypto.randomUUID(), title, settings: kept };
  await (await openStorage()).put('presets', record);
  return record;
}

export async function deletePreset(id: string): Promise<void> {
  await (await openStorage()).delete('presets', id);
}
