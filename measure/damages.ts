import type { LyingFiles } from './histories';

type Damage = (files: LyingFiles, random: () => number) => Record<string, Uint8Array>;

function noise(bytes: Uint8Array, from: number, to: number, random: () => number): void {
  for (let i = from; i < to; i++) bytes[i] = Math.floor(random() * 256);
}

function pageSizeOf(bytes: Uint8Array): number {
  const size = (bytes[16]! << 8) | bytes[17]!;
  return size === 1 ? 65536 : size;
}

function changed(main: Uint8Array, change: (copy: Uint8Array) => void): Record<string, Uint8Array> {
  const copy = main.slice();
  change(copy);
  return { 'messages.db': copy };
}

/** A part of a medium: noise with things in it at sector bounds. */
function image(length: number, random: () => number, parts: [number, Uint8Array][]): Uint8Array {
  const bytes = new Uint8Array(length);
  noise(bytes, 0, length, random);
  for (const [at, part] of parts) bytes.set(part, at);
  return bytes;
}

/** A whole database in the middle of a medium. */
export const carvedImage: Damage = ({ main }, random) => {
  const at = 512 * 517;
  return { 'medium.img': image(main.length + 700_000, random, [[at, main]]) };
};

export const damages = {
  headerZeroed: ({ main }) => changed(main, (copy) => copy.fill(0, 0, 100)),
  firstPageLost: ({ main }, random) =>
    changed(main, (copy) => noise(copy, 0, pageSizeOf(main), random)),
  cut: ({ main }) => ({ 'messages.db': main.slice(0, Math.floor(main.length * 0.6) + 100) }),
  holes: ({ main }, random) =>
    changed(main, (copy) => {
      const page = pageSizeOf(main);
      const pages = Math.floor(copy.length / page);
      for (let i = 0; i < 6; i++) {
        const at = page * (3 + Math.floor(random() * (pages - 6)));
        noise(copy, at, at + page * 2, random);
      }
    }),
  wrongSize: ({ main }, random) =>
    changed(main, (copy) => {
      const page = pageSizeOf(main);
      copy[16] = 0x40;
      copy[17] = 0;
      noise(copy, 9 * page, 11 * page, random);
    }),
  /** Leaf pages picked out and put together without order. */
  pagesAlone: ({ main }, random) => {
    const page = pageSizeOf(main);
    const picked: Uint8Array[] = [];
    for (let at = page; at < main.length; at += page) {
      if (random() < 0.3) picked.push(main.subarray(at, at + page));
    }
    picked.sort(() => random() - 0.5);
    return { 'pages.bin': Uint8Array.from(Buffer.concat(picked)) };
  },
  /** Three runs of pages in the wrong order, with noise between. */
  scattered: ({ main }, random) => {
    const page = pageSizeOf(main);
    const third = page * Math.floor(main.length / page / 3);
    const spots: [number, Uint8Array][] = [
      [page * 80, main.subarray(2 * third)],
      [page * 10 + 4096, main.subarray(0, third)],
      [page * 400, main.subarray(third, 2 * third)]
    ];
    return { 'medium.img': image(page * 500 + main.length, random, spots) };
  },
  /** A database with its log elsewhere in the medium. */
  withLog: ({ main, wal }, random) => {
    const parts: [number, Uint8Array][] = [
      [512 * 40, wal!],
      [512 * 60 + wal!.length, main]
    ];
    return { 'medium.img': image(main.length + wal!.length + 80_000, random, parts) };
  },
  /** Pages as a dump of memory holds them: in any order, at any offset. */
  memory: ({ main }, random) => {
    const page = pageSizeOf(main);
    const picked: Uint8Array[] = [];
    for (let at = page; at < main.length; at += page)
      if (random() < 0.5) picked.push(main.subarray(at, at + page));
    picked.sort(() => random() - 0.5);
    const parts = picked.flatMap((bytes) => [image(Math.floor(random() * 900), random, []), bytes]);
    return { 'memory.bin': Uint8Array.from(Buffer.concat(parts)) };
  },
  logAlone: ({ wal }) => ({ 'messages.db-wal': wal! })
} satisfies Record<string, Damage>;
