/** What reads stores, in the order in which files are offered to them. */
import { CARD } from './card';
import { DATABASES } from './databases';
import { RAW_DATA } from './raw-data';
import type { StoreReader } from './reader';
import { TABLE_LOGS } from './table-logs';
import { TEXT_LOGS } from './text-logs';
import { VMESSAGES } from './vmessages';

export const READERS: readonly StoreReader[] = [
  DATABASES,
  RAW_DATA,
  CARD,
  VMESSAGES,
  TEXT_LOGS,
  TABLE_LOGS
];
