import { computerProfile } from './computer';
import { textExport } from './export';
import { handsetArchive } from './handset';
import { phoneBackup } from './phone-backup';

export { BACKUP_PASSWORD } from './phone-backup';

/** A source of several files, which lie below a folder of their own. */
export interface MoreSource {
  name: string;
  folder: string;
  files: Record<string, Uint8Array>;
}

/** Everything that the client brought beside the two databases. */
export const MORE_SOURCES: readonly MoreSource[] = [
  { name: 'Backup of the new phone', folder: 'phone-backup', files: phoneBackup() },
  { name: 'Old handset', folder: 'handset', files: { 'old-handset.ab': handsetArchive() } },
  { name: 'Office computer', folder: 'computer', files: computerProfile() },
  { name: 'Export from Ragna', folder: 'export', files: textExport() }
];
