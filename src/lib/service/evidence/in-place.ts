import type { EvidencePlace, SourceRecord } from '../../storage/schema';
import type { NamedBlob } from '../api/protocol';

/** Files of a folder that are opened at a time. */
const AT_A_TIME = 64;

/** Evidence that lies on the disk and cannot be read now; the message says why in one sentence. */
class EvidenceAwayError extends Error {
  override readonly name = 'EvidenceAwayError';
}

/** Paths of all files below a folder, none of which is opened. */
export async function listFolder(
  folder: FileSystemDirectoryHandle
): Promise<{ path: string; handle: FileSystemFileHandle }[]> {
  const files: { path: string; handle: FileSystemFileHandle }[] = [];
  const read = async (below: FileSystemDirectoryHandle, prefix: string): Promise<void> => {
    for await (const [name, entry] of below.entries()) {
      if (entry.kind === 'directory') await read(entry, `${prefix}${name}/`);
      else files.push({ path: prefix + name, handle: entry });
    }
  };
  await read(folder, '');
  return files;
}

/** Opens files, many at a time. */
export async function opened(
  files: readonly { path: string; handle: FileSystemFileHandle }[]
): Promise<NamedBlob[]> {
  const out: NamedBlob[] = [];
  for (let at = 0; at < files.length; at += AT_A_TIME) {
    const some = files.slice(at, at + AT_A_TIME);
    const blobs = await Promise.all(some.map(({ handle }) => handle.getFile()));
    some.forEach(({ path }, i) => out.push({ path, blob: blobs[i]! }));
  }
  return out;
}

/** What the browser has to be asked about before a source can be read. */
export function handlesOf(
  place: EvidencePlace
): (FileSystemFileHandle | FileSystemDirectoryHandle)[] {
  return 'folder' in place ? [place.folder] : place.files.map(({ handle }) => handle);
}

/** Browsers that give handles tell whether they have to be asked; it is in no standard yet. */
interface AskedHandle {
  queryPermission?(how: { mode: 'read' }): Promise<PermissionState>;
}

/** Whether a source can be read without asking the user. */
export async function isAllowed(place: EvidencePlace): Promise<boolean> {
  for (const handle of handlesOf(place)) {
    const asked = handle as AskedHandle;
    if (asked.queryPermission && (await asked.queryPermission({ mode: 'read' })) !== 'granted')
      return false;
  }
  return true;
}

/** The files of a source where they lie. @throws EvidenceAwayError */
export async function blobsInPlace(
  { name, files }: SourceRecord,
  place: EvidencePlace | undefined
): Promise<Blob[]> {
  if (!place) throw new EvidenceAwayError(`Where ${name} lies is no longer known; add it again.`);
  if (!(await isAllowed(place)))
    throw new EvidenceAwayError(
      `${name} lies outside this browser, which must ask you again before it reads there: press “Allow reading” above.`
    );
  try {
    const wanted = new Set(files.map(({ path }) => path));
    const handles =
      'folder' in place
        ? await handlesBelow(place.folder, files)
        : place.files.filter(({ path }) => wanted.has(path));
    return (await opened(handles)).map(({ blob }) => blob);
  } catch (error) {
    if (error instanceof DOMException && error.name === 'NotFoundError')
      throw new EvidenceAwayError(
        `${name} is not where it was when it was added. Put it back there, or add it again.`
      );
    throw error;
  }
}

async function handlesBelow(
  root: FileSystemDirectoryHandle,
  files: readonly { path: string }[]
): Promise<{ path: string; handle: FileSystemFileHandle }[]> {
  const folders = new Map<string, Promise<FileSystemDirectoryHandle>>([
    ['', Promise.resolve(root)]
  ]);
  const folderAt = (path: string): Promise<FileSystemDirectoryHandle> => {
    let known = folders.get(path);
    if (!known) {
      const at = path.lastIndexOf('/');
      const name = path.slice(at + 1);
      known = folderAt(at < 0 ? '' : path.slice(0, at)).then((above) =>
        above.getDirectoryHandle(name)
      );
      folders.set(path, known);
    }
    return known;
  };
  return Promise.all(
    files.map(async ({ path }) => {
      const at = path.lastIndexOf('/');
      const folder = await folderAt(at < 0 ? '' : path.slice(0, at));
      return { path, handle: await folder.getFileHandle(path.slice(at + 1)) };
    })
  );
}
