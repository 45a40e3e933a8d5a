/** What sources and packages are called on the shelf, by the kind that a pass recognised. */
export const SOURCE_KINDS: Record<string, string> = {
  database: 'message database',
  card: 'card',
  log: 'text log',
  folder: 'folder',
  medium: 'image of a storage',
  'manifest-backup': 'manifest backup',
  'flat-backup': 'manifest backup, older layout',
  'ab-archive': '.ab archive',
  tar: 'tar archive',
  zip: 'zip archive',
  gzip: 'packed file',
  'sealed-store': 'sealed store'
};
