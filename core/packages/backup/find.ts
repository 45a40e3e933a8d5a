import { baseName, folderOf } from '../paths';

/** Where in a listing a backup lies. */
export interface BackupPlace {
  /** Folder with the manifest, with its final slash, or empty. */
  folder: string;
  layout: 'database' | 'flat';
}

const HASHED = /^[0-9a-f]{40}$/;

/** Folders that hold a backup's manifest and a list that goes with it, outermost first. */
export function findBackups(paths: ReadonlySet<string>): BackupPlace[] {
  const places: BackupPlace[] = [];
  for (const path of paths) {
    const name = baseName(path);
    if (name !== 'Manifest.db' && name !== 'Manifest.mbdb') continue;
    const folder = folderOf(path);
    const layout = name === 'Manifest.db' ? 'database' : 'flat';
    const listed = ['Manifest.plist', 'Info.plist', 'Status.plist'].some((n) =>
      paths.has(folder + n)
    );
    if (listed || holdsHashed(paths, folder)) places.push({ folder, layout });
  }
  places.sort((a, b) => a.folder.length - b.folder.length);
  // Of two manifests in one folder the current layout counts.
  return places.filter(
    (place) =>
      place.layout === 'database' ||
      !places.some((other) => other.layout === 'database' && other.folder === place.folder)
  );
}

function holdsHashed(paths: ReadonlySet<string>, folder: string): boolean {
  for (const path of paths) {
    if (path.startsWith(folder) && HASHED.test(baseName(path))) return true;
  }
  return false;
}

/** Whether a folder is one of a backup's two-digit folders: only files named by a checksum that begins with its name. */
export function isHashFolder(name: string, paths: readonly string[]): boolean {
  if (!/^[0-9a-f]{2}$/.test(name) || paths.length === 0) return false;
  return paths.every((path) => HASHED.test(path) && path.startsWith(name));
}
