import { CardDevice, Handset, Vault, type BenchDevice, type HandsetModel } from '../../bench';
import { simCard } from '../more/sim';
import { bjarnesPhone } from './bjarne';
import { eirinsHandset } from './eirin';
import { officeTablet } from './office-tablet';
import { oldHandset } from './old-handset';
import { DROPPED_SNAPSHOTS, snapshotFiles, SNAPSHOTS, syncedMessages } from './vault';

/** The handsets of the scenario. */
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

/** What is plugged in, in the reader, or signed in to. */
export const BENCH: readonly BenchDevice[] = [
  ...HANDSETS.map((model) => new Handset(model)),
  new CardDevice({
    files: simCard(),
    records: {
      '3F00/7F10/6F3C': 176,
      '3F00/7F10/6F3A': 28,
      '3F00/7F10/6F44': 28,
      '3F00/7F10/6F40': 28
    },
    pin: '4821'
  }),
  new Vault({
    name: 'eirin@ferry.example',
    password: 'tin on the slip',
    code: '318204',
    snapshots: SNAPSHOTS,
    dropped: DROPPED_SNAPSHOTS,
    filesOf: snapshotFiles,
    messages: syncedMessages
  })
];
