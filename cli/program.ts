import { ombudsman } from './ombudsman';

process.exitCode = await ombudsman(process.argv.slice(2));
