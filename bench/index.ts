export { BenchRefusal } from './devices';
export type { BenchDevice } from './devices';
export { CardDevice } from './card-reader/card-device';
export { Handset } from './handsets/handset';
export type { HandsetModel } from './handsets/models';
export { Vault } from './vault/vault';
export type { VaultSnapshot } from './vault/vault';
