import type { EvidencePlace } from './storage/schema';
import type { NamedBlob } from './service/api/protocol';

/** One source to be added: files that belong together. */
export interface FileGroup {
  name: string;
  files: NamedBlob[];
}

const COMPANION = /-(wal|journal|shm)$/;

/** A source that is read where it lies. */
export interface PlacedGroup {
  name: string;
  place: EvidencePlace;
}

/** Makes one source of each picked file; logs and journals go with the database that they stand beside. */
export function groupPicked(files: readonly File[]): FileGroup[] {
  return grouped(files).map(({ name, own }) => ({
    name,
    files: own.map((file) => ({ path: file.name, blob: file }))
  }));
}

function grouped<T extends { name: string }>(files: readonly T[]): { name: string; own: T[] }[] {
  const names = new Set(files.map((file) => file.name));
  const groups = new Map<string, { name: string; own: T[] }>();
  for (const file of files) {
    const base = file.name.replace(COMPANION, '');
    const name = names.has(base) ? base : file.name;
    const group = groups.get(name) ?? { name, own: [] };
    group.own.push(file);
    groups.set(name, group);
  }
  return [...groups.values()];
}

/** What browsers that hand out handles of files have; it is in no standard yet. */
interface Pickers {
  showOpenFilePicker(how: { multiple: boolean }): Promise<FileSystemFileHandle[]>;
  showDirectoryPicker(how: { mode: 'read' }): Promise<FileSystemDirectoryHandle>;
}

/** Whether files can be read where they lie. */
export function canReadInPlace(): boolean {
  return 'showOpenFilePicker' in window && 'showDirectoryPicker' in window;
}

/** Lets the user pick files or a folder; nothing where that was broken off. */
export async function pickPlaces(folder: boolean): Promise<PlacedGroup[]> {
  const pickers = window as unknown as Pickers;
  try {
    return folder
      ? groupHandles([await pickers.showDirectoryPicker({ mode: 'read' })])
      : groupHandles(await pickers.showOpenFilePicker({ multiple: true }));
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') return [];
    throw error;
  }
}

/** What was dropped: to be read where it lies, or to be copied. */
export interface Dropped {
  places: PlacedGroup[];
  groups: FileGroup[];
}

/** Where things that were dropped lie; null where the browser does not tell. */
async function droppedPlaces(
  handles: readonly Promise<DroppedHandle>[]
): Promise<PlacedGroup[] | null> {
  const known = (await Promise.all(handles)).filter((handle) => handle !== null);
  return known.length === handles.length ? groupHandles(known) : null;
}

/** What was dropped: to be read where it lies where that was asked for and can be, else to be copied. */
export async function groupsDropped(transfer: DataTransfer, copies: boolean): Promise<Dropped> {
  // Neither entries nor handles can be asked for any more once the event has passed.
  const items = [...transfer.items].filter(({ kind }) => kind === 'file') as HandedItem[];
  const entries = items.flatMap((item) => item.webkitGetAsEntry() ?? []);
  const mayStay = !copies && canReadInPlace();
  const handles = mayStay ? items.flatMap((item) => item.getAsFileSystemHandle?.() ?? []) : [];
  const places = handles.length === items.length ? await droppedPlaces(handles) : null;
  return places ? { places, groups: [] } : { places: [], groups: await groupEntries(entries) };
}

type DroppedHandle = FileSystemFileHandle | FileSystemDirectoryHandle | null;

interface HandedItem extends DataTransferItem {
  getAsFileSystemHandle?(): Promise<DroppedHandle>;
}

function groupHandles(
  handles: readonly (FileSystemFileHandle | FileSystemDirectoryHandle)[]
): PlacedGroup[] {
  const files = handles.filter((handle) => handle.kind === 'file');
  const folders = handles.filter((handle) => handle.kind === 'directory');
  return [
    ...grouped(files).map(({ name, own }): PlacedGroup => ({
      name,
      place: { files: own.map((handle) => ({ path: handle.name, handle })) }
    })),
    ...folders.map((folder): PlacedGroup => ({ name: folder.name, place: { folder } }))
  ];
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

/** Files by themselves, and each folder as one source. */
async function groupEntries(entries: readonly FileSystemEntry[]): Promise<FileGroup[]> {
  const loose: File[] = [];
  const groups: FileGroup[] = [];
  for (const entry of entries) {
    if (entry.isDirectory) {
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
