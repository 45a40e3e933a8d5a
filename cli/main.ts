import { examine } from './examine';
import { isHashThread } from './hash-thread';

// The bundle is one file: a thread that hashes starts from it as well.
if (!isHashThread()) process.exitCode = await examine(process.argv.slice(2));
