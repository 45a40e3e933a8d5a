import type { CopyDepth } from '../../core/acquire';
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
