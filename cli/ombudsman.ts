import { Command, CommanderError } from 'commander';
import { VERSION } from './version';
import type { CopyOptions } from './bench';
import type { ProduceOptions } from './produce';

const BAD_USAGE = 2;

/** The program with its subcommands; each is loaded when it is asked for. Gives the exit code. */
export async function ombudsman(args: string[]): Promise<number> {
  // Its options are its own: they are as old as the command itself.
  if (args[0] === 'examine') return (await import('./examine')).examine(args.slice(1));
  let code = 0;
  const program = new Command('ombudsman')
    .description('Gets deleted messages back, and produces records that can be read and checked.')
    .version(VERSION)
    .exitOverride()
    .configureOutput({ outputError: (text, write) => write(text) });
  program
    .command('examine')
    .argument('<path...>')
    .description('examine sources and write a case file (examine --help says more)');
  program
    .command('produce')
    .argument('<case>', 'a case file, .json or .jsonl')
    .description('produce records from a case file, as a folder or an archive that can be verified')
    .requiredOption('--out <place>', 'folder to create, or an archive if the name ends in .zip')
    .option('--settings <file>', 'what to choose, formats, numbering and redactions, as JSON')
    .option('--attachments <folder>', 'folder that examine --attachments wrote')
    .option('--sources <folder>', 'the evidence files, for the format database')
    .option('--made <time>', 'creation time, ISO 8601, so that the same bytes come out')
    .option('--quiet', 'no progress')
    .action(async (path: string, options: ProduceOptions) => {
      code = await (await import('./produce')).produce(path, options);
    });
  program
    .command('verify')
    .argument('<place>', 'a production as folder or .zip, or a custody log')
    .description('check a production or a custody log; exit 0 only when all of it holds')
    .action(async (place: string) => {
      code = await (await import('./verify')).verify(place);
    });
  program
    .command('plan')
    .argument('<intake>', 'what the client told, as JSON')
    .description('rank the ways to get the messages back, with what each needs and risks')
    .option('--out <file>', 'where the plan is written, instead of being printed')
    .action(async (path: string, options: { out?: string }) => {
      code = (await import('./plan')).plan(path, options.out ?? null);
    });
  addBench(program, (told) => (code = told));
  try {
    await program.parseAsync(args, { from: 'user' });
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error;
    return error.exitCode === 0 ? 0 : BAD_USAGE;
  }
  return code;
}

/** Commands of the simulated devices. */
function addBench(program: Command, exit: (code: number) => void): void {
  const print = (text: string): void => void process.stdout.write(text);
  const bench = program
    .command('bench')
    .description('simulated handsets, a card reader and a cloud vault, with real data');
  bench
    .command('list')
    .description('print what is on the bench, as JSON')
    .action(async () => exit(await (await import('./bench')).benchList(print)));
  bench
    .command('copy')
    .argument('<device>', 'id from `bench list`')
    .description('take a copy; one that broke off is resumed by the same command')
    .requiredOption('--depth <depth>', 'logical, file-system or physical')
    .requiredOption('--out <folder>', 'folder to create; FOLDER.part until it is complete')
    .option('--key-file <file>', 'passcode, PIN, or password with the code on a second line')
    .option('--fault <name>', 'a fault that happens in the middle')
    .option('--quiet', 'no progress')
    .action(async (id: string, options: CopyOptions) =>
      exit(await (await import('./bench')).benchCopy(id, options))
    );
  bench
    .command('put')
    .argument('<device>', 'a handset')
    .description('merge the messages of a rebuilt store into a handset')
    .requiredOption('--from <file>', 'a store of the same family')
    .option('--dry-run', 'only tell what would be added')
    .action(async (id: string, options: { from: string; dryRun?: boolean }) =>
      exit(await (await import('./bench')).benchPut(id, options, print))
    );
  bench
    .command('reset')
    .argument('[device]', 'default: all')
    .description('reset to the first state')
    .action(async (id: string | undefined) => exit(await (await import('./bench')).benchReset(id)));
}
