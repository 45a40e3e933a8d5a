import { ombudsman } from '../cli/ombudsman';
process.exitCode = await ombudsman(process.argv.slice(2));
