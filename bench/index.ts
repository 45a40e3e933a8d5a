import type { BenchDevice } from './devices';
import { CardDevice } from './card-reader/card-device';
import { Handset } from './handsets/handset';
import { HANDSETS } from './handsets/models';
import { Vault } from './vault/vault';

export { BenchRefusal } from './devices';
export type { BenchDevice } from './devices';
export { CardDevice } from './card-reader/card-device';
export { Handset } from './handsets/handset';

/** What is plugged in, in the reader, or signed in to. */
export const BENCH: readonly BenchDevice[] = [
  ...HANDSETS.map((model) => new Handset(model)),
  new CardDevice(),
  new Vault()
];
