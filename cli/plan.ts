import { readFileSync, renameSync, writeFileSync } from 'node:fs';
import { systemReason } from '../core/host';
import { intakeProblem, intakeSchema, planOf, type Intake } from '../core/plan';
import { visible } from '../core/shown';
import { partialBeside } from './partial';
import { refusePlaces } from './places';
import { UsageError } from './usage-error';

const [DONE, BAD_USAGE, UNREADABLE] = [0, 2, 3];

/** Ranks the routes of an intake and prints them, or writes them to a file; gives the exit code. */
export function plan(
  path: string,
  out: string | null,
  print: (text: string) => void = (text) => void process.stdout.write(text)
): number {
  try {
    if (out !== null) refusePlaces([path], out, null);
    const text = `${JSON.stringify(planOf(readIntake(path)), null, 2)}\n`;
    if (out === null) print(text);
    else {
      const partial = partialBeside(out);
      writeFileSync(partial, text);
      renameSync(partial, out);
    }
    return DONE;
  } catch (error) {
    const reason = error instanceof UsageError ? error.message : systemReason(error);
    if (reason === null) throw error;
    const told = error instanceof UsageError ? reason : `${path} ${reason}.`;
    process.stderr.write(`error: ${visible(told)}\n`);
    return error instanceof UsageError ? BAD_USAGE : UNREADABLE;
  }
}

/** @throws UsageError where the document is no intake, or its answers contradict each other */
function readIntake(path: string): Intake {
  const text = readFileSync(path, 'utf8').replace(/^\ufeff/, '');
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch (error) {
    if (error instanceof SyntaxError)
      throw new UsageError(`${path} is not an intake: it is not JSON.`);
    throw error;
  }
  const checked = intakeSchema.safeParse(document);
  if (!checked.success)
    throw new UsageError(`${path} is refused: ${intakeProblem(checked.error)}.`);
  return checked.data;
}
