import { baseName, folderOf } from '../paths';

/** Where in a listing a backup lies. */
export interface BackupPlace {
  /** Folder with the manifest, with its final slash, or empty. */
  folder: string;
  layout: 'database' | 'flat';
}

const HASHED = /^[0-9a-f]{40}$/;

/** Folders that hold a backup's manifest and a list that goes with it, outermost first. */
export function findBackups(files: readonly { path: string }[]): BackupPlace[] {
  const lists = files.filter(({ path }) => LISTS.some((name) => path.endsWith(name)));
  const manifests = lists.filter(({ path }) => /(^|\/)Manifest\.(db|mbdb)$/.test(path));
  if (manifests.length === 0) return [];
  const paths = new Set(lists.map(({ path }) => path));
  const places = manifests.flatMap(({ path }): BackupPlace[] => {
    const folder = folderOf(path);
    const layout = path.endsWith('.mbdb') ? 'flat' : 'database';
    // Of two manifests in one folder the current layout counts.
    if (layout === 'flat' && paths.has(`${folder}Manifest.db`)) return [];
    const listed = BESIDE.some((name) => paths.has(folder + name));
    return listed || holdsHashed(files, folder) ? [{ folder, layout }] : [];
  });
  return places.sort((a, b) => a.folder.length - b.folder.length);
}

const BESIDE = ['Manifest.plist', 'Info.plist', 'Status.plist'];
const LISTS = ['Manifest.db', 'Manifest.mbdb', ...BESIDE];

function holdsHashed(files: readonly { path: string }[], folder: string): boolean {
  return files.some(({ path }) => path.startsWith(folder) && HASHED.test(baseName(path)));
}

/** Whether a folder is one of a backup's two-digit folders: only files named by a checksum that begins with its name. */
export function isHashFolder(name: string, files: readonly { path: string }[]): boolean {
  if (!/^[0-9a-f]{2}$/.test(name) || files.length === 0) return false;
  return files.every(({ path }) => HASHED.test(path) && path.startsWith(name));
}
