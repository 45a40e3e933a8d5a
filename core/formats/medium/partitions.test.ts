import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { MemorySource } from '../../host';
import { partitionsOf } from './partitions';

const SECTOR = 512;

interface Entry {
  type: number;
  start: number;
  count: number;
}

/** Writes a table of up to four entries, in sectors, at a sector of a disk. */
function table(disk: Uint8Array, sector: number, entries: readonly Entry[]): void {
  const view = new DataView(disk.buffer);
  for (const [n, { type, start, count }] of entries.entries()) {
    const at = sector * SECTOR + 446 + 16 * n;
    disk[at + 4] = type;
    view.setUint32(at + 8, start, true);
    view.setUint32(at + 12, count, true);
  }
  disk.set([0x55, 0xaa], sector * SECTOR + 510);
}

const placesOf = (disk: Uint8Array): [number, number][] =>
  partitionsOf(new MemorySource('disk', disk)).partitions.map(({ start, size }) => [
    start / SECTOR,
    size / SECTOR
  ]);

test('primary and logical partitions are found, each where it lies', () => {
  const disk = new Uint8Array(400 * SECTOR);
  table(disk, 0, [
    { type: 0x0c, start: 20, count: 30 },
    { type: 0x05, start: 100, count: 300 }
  ]);
  table(disk, 100, [
    { type: 0x83, start: 2, count: 40 },
    { type: 0x05, start: 60, count: 100 }
  ]);
  table(disk, 160, [{ type: 0x07, start: 2, count: 50 }]);
  assert.deepEqual(placesOf(disk), [
    [20, 30],
    [102, 40],
    [162, 50]
  ]);
});

test('a chain of logical partitions that comes back to itself ends', () => {
  const disk = new Uint8Array(300 * SECTOR);
  table(disk, 0, [{ type: 0x0f, start: 50, count: 200 }]);
  table(disk, 50, [
    { type: 0x83, start: 1, count: 9 },
    { type: 0x05, start: 20, count: 20 }
  ]);
  table(disk, 70, [
    { type: 0x83, start: 1, count: 9 },
    { type: 0x05, start: 0, count: 20 }
  ]);
  assert.deepEqual(placesOf(disk), [
    [51, 9],
    [71, 9]
  ]);
});

test('a partition that leads past the end of the disk is cut there; one that begins there is none', () => {
  const disk = new Uint8Array(100 * SECTOR);
  table(disk, 0, [
    { type: 0x83, start: 60, count: 900 },
    { type: 0x83, start: 500, count: 10 }
  ]);
  assert.deepEqual(placesOf(disk), [[60, 40]]);
});

/** A disk with a table of GUIDs at its beginning and its end. */
function guidDisk(sector: number): Uint8Array {
  const count = 300;
  const disk = new Uint8Array(count * sector);
  const view = new DataView(disk.buffer);
  const entries = (at: number): void => {
    disk.fill(7, at, at + 16);
    view.setBigUint64(at + 32, 40n, true);
    view.setBigUint64(at + 40, 139n, true);
    for (const [i, char] of [...'photos'].entries())
      view.setUint16(at + 56 + 2 * i, char.charCodeAt(0), true);
  };
  const header = (own: number, list: number): void => {
    const at = own * sector;
    disk.set(new TextEncoder().encode('EFI PART'), at);
    view.setBigUint64(at + 24, BigInt(own), true);
    view.setBigUint64(at + 72, BigInt(list), true);
    view.setUint32(at + 80, 4, true);
    view.setUint32(at + 84, 128, true);
    entries(list * sector);
  };
  header(1, 2);
  header(count - 1, count - 3);
  return disk;
}

for (const sector of [512, 4096])
  test(`GUIDs, sectors of ${sector}: names and places; the copy at the end where the first is damaged`, () => {
    const disk = guidDisk(sector);
    const read = (): ReturnType<typeof partitionsOf> =>
      partitionsOf(new MemorySource('disk', disk));
    const expected = [{ start: 40 * sector, size: 100 * sector, label: 'photos' }];
    assert.deepEqual(read(), { scheme: 'GPT', partitions: expected, damage: null });
    disk.fill(0, sector, 3 * sector);
    const { partitions, damage } = read();
    assert.deepEqual(partitions, expected);
    assert.match(damage!, /the one at its end was read/);
  });

test('any bytes are a table or none, with partitions that lie within the disk', () => {
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: 512, maxLength: 3000 }),
      fc.boolean(),
      (bytes, isMarked) => {
        if (isMarked) bytes.set([0x55, 0xaa], 510);
        for (const { start, size } of partitionsOf(new MemorySource('disk', bytes)).partitions)
          assert.ok(start > 0 && size > 0 && start + size <= bytes.length);
      }
    ),
    { numRuns: 500 }
  );
});
