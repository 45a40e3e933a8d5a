import { Database } from '../core/sqlite/index';
import { filesOf } from '../core/tests/databases';
export const fromBytes = (b: Uint8Array) => Database.open(filesOf(b));
