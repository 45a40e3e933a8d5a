import { settingsSchema, type Settings } from '$core/produce';

/** Settings for a reader, by whom it is for. */
export interface Preset {
  id: string;
  title: string;
  settings: Settings;
}

function preset(id: string, title: string, settings: object): Preset {
  // Calls and contacts are of the whole case: they go along only when they are asked for.
  const choose = { calls: false, contacts: false };
  return { id, title, settings: settingsSchema.parse({ choose, ...settings }) };
}

/** Settings to begin with; each can be changed and saved. */
export const PRESETS: readonly Preset[] = [
  preset('client', 'For a client', { formats: ['pdf', 'html', 'media'], proofs: 'none' }),
  preset('lawyer', 'For a lawyer', {
    formats: ['pdf', 'html', 'xlsx', 'media'],
    numbering: { prefix: '', start: 1, digits: 6 }
  }),
  preset('court', 'For a court', {
    formats: ['pdf', 'csv', 'media'],
    numbering: { prefix: 'EX-', start: 1, digits: 6 }
  }),
  preset('analyst', 'For an analyst', {
    choose: { calls: true, contacts: true },
    formats: ['xlsx', 'csv', 'jsonl', 'vcf', 'ics', 'mbox', 'media']
  })
];
