import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { setTimeout as sleep } from 'node:timers/promises';
import {
  CopyError,
  type CopyFault,
  type CopyListing,
  type CopyPart,
  type CopyWire
} from '../core/acquire';
import { FAULT_AT } from './devices';
import type { Packed } from './handsets/packing';

/** What a wire needs to know of its device. */
export interface WireHost {
  /** Facts of the listing, without its files. */
  facts: Omit<CopyListing, 'files'>;
  files(): Promise<Packed>;
  /** @throws CopyError when the device is not ready */
  check(): void;
  /** The fault that is switched on. */
  armed(): CopyFault | null;
  /** Lets the fault happen, which switches it off. */
  happen(fault: CopyFault): void;
  /** Bytes a second; null for as quick as it goes. */
  rate: number | null;
}

/** A wire over files that lie in memory, at the pace and with the faults of its device. */
export function wireOver(host: WireHost): CopyWire {
  let packed: Promise<Packed> | null = null;
  const files = (): Promise<Packed> => (packed ??= host.files());
  return {
    async list() {
      host.check();
      const list = Object.entries(await files()).map(([path, { length }]) => ({
        path,
        size: length
      }));
      return { ...host.facts, files: list };
    },
    async read(path, offset, length) {
      host.check();
      const all = await files();
      const part = all[path]?.slice(offset, offset + length);
      if (!part) throw new CopyError('not-ready', `There is no ${path} on the device.`);
      if (host.rate !== null) await sleep((part.length * 1000) / host.rate);
      const fault = host.armed();
      if (fault !== null && isReached(all, path, offset + part.length)) {
        host.happen(fault);
        throw new CopyError(fault, FAULT_WORDS[fault](path, offset), { path, offset });
      }
      return checked(part);
    }
  };
}

function checked(bytes: Uint8Array): CopyPart {
  return { bytes, sha256: bytesToHex(sha256(bytes)) };
}

function isReached(all: Packed, path: string, end: number): boolean {
  const sizes = Object.entries(all).map(([name, { length }]) => ({ name, length }));
  const total = sizes.reduce((sum, { length }) => sum + length, 0);
  const before = sizes
    .slice(
      0,
      sizes.findIndex(({ name }) => name === path)
    )
    .reduce((sum, { length }) => sum + length, 0);
  return before + end >= total * FAULT_AT;
}

/** What is said when a fault happens. */
const FAULT_WORDS: Record<CopyFault, (path: string, offset: number) => string> = {
  unplugged: () => 'The phone was unplugged. Plug it in again.',
  'battery-empty': () => 'The phone’s battery ran out. Charge it above a fifth and switch it on.',
  'permission-withdrawn': () =>
    'The phone no longer lets this computer in. Its owner has to allow it again.',
  'no-room': () => 'There is no room left for the copy. Make room, then resume it.',
  'read-error': (path, offset) =>
    `A block of ${path} could not be read, ${offset} bytes in. Resume the copy: it is read once more from there.`,
  'connection-lost': () => 'The connection to the vault was lost. Resume the copy when it is back.',
  'limit-reached': () =>
    'The vault gives this account nothing more for now. Resume the copy later.',
  'card-removed': () => 'The card was taken out. Put it in again.',
  'not-ready': () => 'The device is not ready.',
  'damaged-in-transit': () => 'A part arrived damaged. Resume the copy.'
};
