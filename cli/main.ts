import { examine } from './examine';

process.exitCode = await examine(process.argv.slice(2));
