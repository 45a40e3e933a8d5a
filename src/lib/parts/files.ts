import type { NamedBlob } from '../worker/protocol';

/** One source to be added: files that belong together. */
export interface FileGroup {
  name: string;
  files: NamedBlob[];
}

const COMPANION = /-(wal|journal|shm)$/;

/** Makes one source of each picked file; logs and journals go with the database that they stand beside. */
export function groupPicked(files: readonly File[]): FileGroup[] {
  const names = new Set(files.map((file) => file.name));
  const groups = new Map<string, FileGroup>();
  for (const file of files) {
    const base = file.name.replace(COMPANION, '');
    const key = names.has(base) ? base : file.name;
    const group = groups.get(key) ?? { name: key, files: [] };
    group.files.push({ path: file.name, blob: file });
    groups.set(key, group);
  }
  return [...groups.values()];
}

/** A picked folder is one source; its files keep their paths below it. */
export function groupFolder(files: readonly File[]): FileGroup[] {
  const first = files[0];
  if (!first) return [];
  const [folder = 'folder'] = first.webkitRelativePath.split('/');
  const inside = files.map((file) => ({
    path: file.webkitRelativePath.slice(folder.length + 1) || file.name,
    blob: file
  }));
  return [{ name: folder, files: inside }];
}

/** What was dropped: files by themselves, and each folder as one source. */
export async function groupDropped(transfer: DataTransfer): Promise<FileGroup[]> {
  const entries = [...transfer.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  const loose: File[] = [];
  const groups: FileGroup[] = [];
  for (const entry of entries) {
    if (entry instanceof FileSystemDirectoryEntry || entry.isDirectory) {
      const files: NamedBlob[] = [];
      await readFolder(entry as FileSystemDirectoryEntry, '', files);
      groups.push({ name: entry.name, files });
    } else loose.push(await fileOf(entry as FileSystemFileEntry));
  }
  return [...groupPicked(loose), ...groups];
}

async function readFolder(
  folder: FileSystemDirectoryEntry,
  prefix: string,
  into: NamedBlob[]
): Promise<void> {
  const reader = folder.createReader();
  for (;;) {
    const batch = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject)
    );
    if (batch.length === 0) return;
    for (const entry of batch) {
      const path = prefix + entry.name;
      if (entry.isDirectory) await readFolder(entry as FileSystemDirectoryEntry, `${path}/`, into);
      else into.push({ path, blob: await fileOf(entry as FileSystemFileEntry) });
    }
  }
}

function fileOf(entry: FileSystemFileEntry): Promise<File> {
  return new Promise((resolve, reject) => entry.file(resolve, reject));
}
