// Images of media, made by the tools and drivers that people's machines use.
import { execFileSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import {
  closeSync,
  ftruncateSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  writeFileSync
} from 'node:fs';
import { dirname, join } from 'node:path';

/** What was written to an image, and what of it was deleted. */
export interface Truth {
  live: Map<string, string>;
  deleted: Map<string, { sha256: string; bytes: Uint8Array }>;
}

/** How one kind of file system is made and written. */
export interface Shape {
  name: string;
  megabytes: number;
  format: (image: string) => void;
  /** A folder of this machine in which the image's files are; absent where only mtools write. */
  mount?: (image: string, folder: string) => string | null;
}

function run(command: string, ...args: string[]): string {
  return execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
}

const looped = (image: string, folder: string): null => {
  run('mount', '-o', 'loop', image, folder);
  return null;
};
const ntfs =
  (options: string) =>
  (image: string, folder: string): null => {
    run('ntfs-3g', '-o', options, image, folder);
    return null;
  };
const exfat = (image: string, folder: string): string => {
  const device = run('losetup', '-f', '--show', image).trim();
  run('mount.exfat-fuse', device, folder);
  return device;
};

export const SHAPES: Shape[] = [
  { name: 'FAT12', megabytes: 7, format: (i) => void run('mkfs.fat', '-F', '12', i) },
  {
    name: 'FAT16',
    megabytes: 24,
    format: (i) => void run('mkfs.fat', '-F', '16', '-n', 'CARD', i)
  },
  { name: 'FAT32', megabytes: 48, format: (i) => void run('mkfs.fat', '-F', '32', '-s', '1', i) },
  {
    name: 'FAT32, sectors of 4096',
    megabytes: 300,
    format: (i) => void run('mkfs.fat', '-F', '32', '-S', '4096', '-s', '1', i)
  },
  {
    name: 'exFAT',
    megabytes: 32,
    format: (i) => void run('mkfs.exfat', '-L', 'stick', i),
    mount: exfat
  },
  {
    name: 'NTFS',
    megabytes: 32,
    format: (i) => void run('mkntfs', '-q', '-F', '-L', 'work', i),
    mount: ntfs('rw')
  },
  {
    name: 'NTFS, packed',
    megabytes: 32,
    format: (i) => void run('mkntfs', '-q', '-F', '-C', i),
    mount: ntfs('compression')
  },
  {
    name: 'NTFS, clusters of 512',
    megabytes: 32,
    format: (i) => void run('mkntfs', '-q', '-F', '-c', '512', i),
    mount: ntfs('rw')
  },
  {
    name: 'ext2',
    megabytes: 32,
    format: (i) => void run('mke2fs', '-q', '-t', 'ext2', i),
    mount: looped
  },
  {
    name: 'ext3',
    megabytes: 48,
    format: (i) => void run('mke2fs', '-q', '-t', 'ext3', i),
    mount: looped
  },
  {
    name: 'ext4',
    megabytes: 48,
    format: (i) => void run('mke2fs', '-q', '-t', 'ext4', '-L', 'data', i),
    mount: looped
  },
  {
    name: 'ext4, blocks of 1024',
    megabytes: 48,
    format: (i) => void run('mke2fs', '-q', '-t', 'ext4', '-b', '1024', i),
    mount: looped
  },
  {
    name: 'ext4, inline data',
    megabytes: 48,
    format: (i) => void run('mke2fs', '-q', '-t', 'ext4', '-I', '512', '-O', 'inline_data', i),
    mount: looped
  }
];

/** A file's bytes: none of them stands in another one. Text packs well, the rest does not. */
function contentOf(path: string, size: number): Uint8Array {
  if (!path.endsWith('.txt')) return new Uint8Array(randomBytes(size));
  const line = `${path} ${randomBytes(6).toString('hex')} said at the quay, and again\n`;
  return new TextEncoder().encode(line.repeat(Math.ceil(size / line.length))).subarray(0, size);
}

const FOLDERS = [
  'DCIM/100CAM',
  'Some folder with a long name',
  'data/app/databases',
  'déjà vu',
  ''
];

function namesAndSizes(count: number): [string, number][] {
  return Array.from({ length: count }, (_, i) => {
    const folder = FOLDERS[i % FOLDERS.length]!;
    const name = folder.startsWith('DCIM')
      ? `IMG_${1000 + i}.JPG`
      : `file number ${i}.${i % 3 ? 'dat' : 'txt'}`;
    const size = [0, 60, 400, 5000, 21_000, 70_000, 4096, 130_000][i % 8]! + (i % 7);
    return [folder === '' ? name : `${folder}/${name}`, size];
  });
}

/** Makes an image: files come and go, so that some lie in pieces; at the end some are deleted, a whole folder among them. */
export function makeImage(shape: Shape, folder: string): { image: string; truth: Truth } {
  const image = join(folder, 'image.img');
  rmSync(image, { force: true });
  const file = openSync(image, 'w');
  ftruncateSync(file, shape.megabytes << 20);
  closeSync(file);
  shape.format(image);
  const writer = shape.mount ? mounted(shape, image, folder) : byTools(image, folder);
  const truth: Truth = { live: new Map(), deleted: new Map() };
  const bytesOf = new Map<string, Uint8Array>();
  const put = (path: string, size: number): void => {
    const bytes = contentOf(path, size);
    writer.put(path, bytes);
    bytesOf.set(path, bytes);
  };
  const all = namesAndSizes(80);
  for (const [path, size] of all) put(path, size);
  // Holes for what is written next.
  writer.rest();
  for (const [path] of all.filter((_, i) => i % 9 === 4)) {
    writer.remove(path);
    bytesOf.delete(path);
  }
  put('pieces of many.dat', 400_000);
  for (const n of [1, 2, 3]) put(`gone/with the folder/inner ${n}.dat`, 9000 * n);
  writer.rest();
  const gone = [...bytesOf.keys()].filter((path, i) => i % 6 === 2 || path.startsWith('gone/'));
  for (const path of gone.filter((path) => !path.startsWith('gone/'))) writer.remove(path);
  writer.removeFolder('gone');
  writer.end();
  for (const [path, bytes] of bytesOf) {
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    if (gone.includes(path)) truth.deleted.set(path, { sha256, bytes });
    else truth.live.set(path, sha256);
  }
  return { image, truth };
}

interface Writer {
  put(path: string, bytes: Uint8Array): void;
  remove(path: string): void;
  removeFolder(path: string): void;
  /** Lets the driver write what it holds back. */
  rest(): void;
  end(): void;
}

function mounted(shape: Shape, image: string, folder: string): Writer {
  const place = join(folder, 'mount');
  mkdirSync(place, { recursive: true });
  const device = shape.mount!(image, place);
  return {
    put(path, bytes) {
      mkdirSync(dirname(join(place, path)), { recursive: true });
      writeFileSync(join(place, path), bytes);
    },
    remove: (path) => rmSync(join(place, path)),
    removeFolder: (path) => rmSync(join(place, path), { recursive: true }),
    rest: () => void run('sync'),
    end() {
      run('umount', place);
      if (device) run('losetup', '-d', device);
    }
  };
}

function byTools(image: string, folder: string): Writer {
  const made = new Set<string>();
  const given = join(folder, 'given');
  return {
    put(path, bytes) {
      const parts = path.split('/').slice(0, -1);
      for (let n = 1; n <= parts.length; n++) {
        const above = parts.slice(0, n).join('/');
        if (!made.has(above)) run('mmd', '-i', image, `::/${above}`);
        made.add(above);
      }
      writeFileSync(given, bytes);
      run('mcopy', '-i', image, given, `::/${path}`);
    },
    remove: (path) => void run('mdel', '-i', image, `::/${path}`),
    removeFolder: (path) => void run('mdeltree', '-i', image, `::/${path}`),
    rest: () => undefined,
    end: () => undefined
  };
}

/** Whether every block of a file still stands in an image. */
export function isThere(image: Buffer, bytes: Uint8Array): boolean {
  for (let at = 0; at < bytes.length; at += 512)
    if (!image.includes(Buffer.from(bytes.subarray(at, Math.min(at + 512, bytes.length)))))
      return false;
  return true;
}

export const readImage = (path: string): Buffer => readFileSync(path);
