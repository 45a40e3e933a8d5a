import { bmvbhash } from 'blockhash-core';

/** Cells of a picture's fingerprint, in rows and columns. */
const CELLS = 8;

/** A fingerprint of 64 bits by which pictures that look alike are found: brighter or darker than most, cell by cell. */
export function fingerprint(image: ImageData): [high: number, low: number] {
  const hex = bmvbhash(image, CELLS);
  return [parseInt(hex.slice(0, 8), 16), parseInt(hex.slice(8, 16), 16)];
}

/** Bits by which two fingerprints differ. */
export function distance(a: readonly [number, number], b: readonly [number, number]): number {
  return ones(a[0] ^ b[0]) + ones(a[1] ^ b[1]);
}

function ones(bits: number): number {
  let n = bits - ((bits >>> 1) & 0x55555555);
  n = (n & 0x33333333) + ((n >>> 2) & 0x33333333);
  return (((n + (n >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}

/**
 * The first of the pictures that each looks like, by its key. Each is held
 * against those that stand for others, so that none stands for one that it
 * does not itself resemble.
 */
export function standingFor(
  pictures: readonly { key: string; print: readonly [number, number] }[],
  most: number
): Map<string, string> {
  const firsts: { key: string; print: readonly [number, number] }[] = [];
  const standsFor = new Map<string, string>();
  for (const picture of pictures) {
    const first = firsts.find(({ print }) => distance(print, picture.print) <= most);
    if (first) standsFor.set(picture.key, first.key);
    else firsts.push(picture);
  }
  return standsFor;
}
