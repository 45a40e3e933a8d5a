import { FORMATS } from '$core/formats';

/** What sources and packages are called on the shelf, by the kind that a pass recognised. */
export const SOURCE_KINDS: Readonly<Record<string, string>> = {
  ...Object.fromEntries(FORMATS.map(({ kind, title }) => [kind, title])),
  database: 'message database',
  card: 'card',
  log: 'text log',
  folder: 'folder',
  medium: 'image of a storage',
  'manifest-backup': 'manifest backup',
  'flat-backup': 'manifest backup, older layout'
};
