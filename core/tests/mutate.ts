/** Ways in which a file's bytes can be wrong, each from a seeded source of numbers below 1. */
export type Mutation = (bytes: Uint8Array, random: () => number) => Uint8Array;

function pick(random: () => number, below: number): number {
  return Math.floor(random() * below);
}

const flips: Mutation = (bytes, random) => {
  const out = new Uint8Array(bytes);
  const count = 1 + pick(random, 40);
  for (let i = 0; i < count; i++) out[pick(random, out.length)]! ^= 1 << pick(random, 8);
  return out;
};

/** Noise, zeros or ones over a stretch. */
const smear: Mutation = (bytes, random) => {
  const out = new Uint8Array(bytes);
  const from = pick(random, out.length);
  const kind = pick(random, 3);
  const end = Math.min(out.length, from + 1 + pick(random, 3000));
  for (let i = from; i < end; i++) out[i] = kind === 0 ? 0 : kind === 1 ? 0xff : pick(random, 256);
  return out;
};

const cut: Mutation = (bytes, random) => bytes.slice(0, pick(random, bytes.length));

/** A stretch copied over another. */
const splice: Mutation = (bytes, random) => {
  const out = new Uint8Array(bytes);
  const length = 1 + pick(random, 2000);
  const from = pick(random, Math.max(1, out.length - length));
  out.copyWithin(pick(random, out.length), from, from + length);
  return out;
};

/** A stretch left out, or put in twice: everything behind it is moved. */
const shift: Mutation = (bytes, random) => {
  const from = pick(random, bytes.length);
  const length = 1 + pick(random, 600);
  const parts =
    random() < 0.5
      ? [bytes.subarray(0, from), bytes.subarray(from + length)]
      : [bytes.subarray(0, from + length), bytes.subarray(from)];
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  out.set(parts[0]!);
  out.set(parts[1]!, parts[0]!.length);
  return out;
};

/** Lengths and counts as large as they can be, at places where varints and pointers stand. */
const hostile: Mutation = (bytes, random) => {
  const out = new Uint8Array(bytes);
  for (let i = 0; i < 6; i++) {
    const at = pick(random, Math.max(1, out.length - 9));
    const kind = pick(random, 3);
    if (kind === 0) out.fill(0xff, at, at + 9);
    else if (kind === 1) out.set([0x80, 0x80, 0x80, 0x80, 0x80], at);
    else out.set([0x7f, 0xff, 0xff, 0xff], at);
  }
  return out;
};

/** Page numbers that lead back: interior children, overflow chains and trunks in circles. */
const circle: Mutation = (bytes, random) => {
  const out = new Uint8Array(bytes);
  const size = (out[16]! << 8) | out[17]! || 1024;
  const pages = Math.max(1, Math.floor(out.length / size));
  for (let i = 0; i < 12; i++) {
    const page = pick(random, pages);
    const spots = [0, 8, 12, size - 4, 4 * pick(random, size / 4)];
    const at = page * size + spots[pick(random, spots.length)]!;
    const target = 1 + pick(random, pages);
    if (at + 4 <= out.length) out.set([0, 0, target >> 8, target & 0xff], at);
  }
  return out;
};

/** Impossible facts in the header. */
const header: Mutation = (bytes, random) => {
  const out = new Uint8Array(bytes);
  for (let i = 0; i < 4; i++) out[16 + pick(random, 84)] = pick(random, 256);
  return out;
};

/** Pages in another order. */
const shuffle: Mutation = (bytes, random) => {
  const size = 1024;
  const out = new Uint8Array(bytes);
  for (let i = 0; i < 6; i++) {
    const pages = Math.floor(out.length / size);
    const [a, b] = [pick(random, pages) * size, pick(random, pages) * size];
    const first = out.slice(a, a + size);
    out.copyWithin(a, b, b + size);
    out.set(first, b);
  }
  return out;
};

export const mutations: Readonly<Record<string, Mutation>> = {
  flips,
  smear,
  cut,
  splice,
  shift,
  hostile,
  circle,
  header,
  shuffle
};
