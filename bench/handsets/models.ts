import type { CopyDepth } from '../../core/copying';
import { bjarnesPhone } from '../../demo/devices/bjarne';
import { eirinsHandset } from '../../demo/devices/eirin';
import { officeTablet } from '../../demo/devices/office-tablet';
import { oldHandset } from '../../demo/devices/old-handset';
import type { HandsetContents } from './contents';

/** Handsets of one family keep their messages alike and are let in alike. */
export type Family = 'telephony' | 'joined';

/** An invented handset. */
export interface HandsetModel {
  id: string;
  name: string;
  family: Family;
  model: string;
  system: string;
  serial: string;
  /** Null for a handset without one. */
  passcode: string | null;
  /** Bytes a second: file by file, and of its storage as a whole. */
  rates: { files: number; storage: number };
  /** Why a depth is not to be had. */
  without: Partial<Record<CopyDepth, string>>;
  /** How it is found: what is missing at first. */
  first: {
    plugged: boolean;
    cable: 'data' | 'charging-only';
    battery: number;
    unlocked: boolean;
    developer: boolean;
  };
  contents(): Promise<HandsetContents>;
}

export const HANDSETS: readonly HandsetModel[] = [
  {
    id: 'tern-4',
    name: 'Eirin’s handset',
    family: 'telephony',
    model: 'Tern 4',
    system: '12',
    serial: 'TN4-20931',
    passcode: '250817',
    rates: { files: 120_000, storage: 0 },
    without: {
      physical:
        'Not on this model: its storage is encrypted by a key that does not leave it, so freed space reads as noise.'
    },
    first: { plugged: true, cable: 'charging-only', battery: 64, unlocked: true, developer: false },
    contents: eirinsHandset
  },
  {
    id: 'tern-1',
    name: 'Old handset from the drawer',
    family: 'telephony',
    model: 'Tern 1',
    system: '6',
    serial: 'TN1-00418',
    passcode: null,
    rates: { files: 90_000, storage: 900_000 },
    without: {},
    first: { plugged: true, cable: 'data', battery: 11, unlocked: false, developer: true },
    contents: oldHandset
  },
  {
    id: 'pocket-5',
    name: 'Tablet from the office',
    family: 'joined',
    model: 'Pocket 5',
    system: '18.2',
    serial: 'PK5-7730-B',
    passcode: '118002',
    rates: { files: 160_000, storage: 0 },
    without: {
      physical:
        'Not on this model: each file has a key of its own, which is destroyed with the file.'
    },
    first: { plugged: true, cable: 'data', battery: 81, unlocked: false, developer: false },
    contents: officeTablet
  },
  {
    id: 'pocket-2',
    name: 'Bjarne’s phone',
    family: 'joined',
    model: 'Pocket 2',
    system: '8.4',
    serial: 'PK2-1190-F',
    passcode: '4455',
    rates: { files: 100_000, storage: 700_000 },
    without: {},
    first: { plugged: false, cable: 'data', battery: 44, unlocked: false, developer: false },
    contents: bjarnesPhone
  }
];
