import { downloadZip } from 'client-zip';
import { inUtc } from '$core/shown';

/** Takes the files of a package as they are made. */
export interface PackageSink {
  put(path: string, bytes: Uint8Array): Promise<void>;
  /** The archive; null where the package lies in a folder. */
  finish(): Promise<Blob | null>;
  /** Leaves nothing behind that could be taken for whole. */
  abandon(): Promise<void>;
}

/** One archive, which the browser hands over. */
export function zipSink(folder: string, made: number): PackageSink {
  const parts: { name: string; input: Blob; lastModified: Date }[] = [];
  const lastModified = inUtc(made);
  return {
    put(path, bytes) {
      // Blobs may lie on disk; bytes would all stay in memory.
      const input = new Blob([bytes as Uint8Array<ArrayBuffer>]);
      parts.push({ name: `${folder}/${path}`, input, lastModified });
      return Promise.resolve();
    },
    finish: () => downloadZip(parts).blob(),
    abandon: () => Promise.resolve()
  };
}

/** A folder of the package's name below one that was chosen; each file is written as it comes. */
export async function folderSink(
  below: FileSystemDirectoryHandle,
  name: string
): Promise<PackageSink> {
  if (await holds(below, name))
    throw new Error(
      `The folder ${below.name} holds ${name} already; nothing in it is overwritten.`
    );
  const folder = await below.getDirectoryHandle(name, { create: true });
  return {
    async put(path, bytes) {
      const steps = path.split('/');
      const last = steps.pop()!;
      let at = folder;
      for (const step of steps) at = await at.getDirectoryHandle(step, { create: true });
      const file = await at.getFileHandle(last, { create: true });
      const out = await file.createWritable();
      await out.write(bytes as Uint8Array<ArrayBuffer>);
      await out.close();
    },
    finish: () => Promise.resolve(null),
    abandon: () => below.removeEntry(name, { recursive: true })
  };
}

async function holds(folder: FileSystemDirectoryHandle, name: string): Promise<boolean> {
  try {
    await folder.getDirectoryHandle(name);
    return true;
  } catch (error) {
    if (error instanceof DOMException && error.name === 'NotFoundError') return false;
    throw error;
  }
}
