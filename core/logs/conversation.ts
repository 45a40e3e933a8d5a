/** What the place of a log says of the conversation that it holds. */
export interface LogPlace {
  /** The same for all files of one conversation: the path without what only says when. */
  key: string;
  /** What the conversation is called there. */
  name: string;
  /** The folder in which the conversations of one account lie. */
  group: string;
}

const STAMP =
  /(?:19|20)\d{2}[-_.]?[01]\d[-_.]?[0-3]\d(?:[T_.\- ]?[0-2]\d[.:\-_h]?[0-5]\d(?:[.:\-_]?[0-5]\d)?)?(?:[+-]\d{4}[A-Z]*)?/g;
const YEAR = /^(?:19|20)\d{2}$/;
const DATED_FOLDER = /^(?:19|20)\d{2}(?:[-_.]?[01]\d(?:[-_.]?[0-3]\d)?)?$/;
const NUMBER = /^\d{1,2}$/;
/** Words that say no more than that a file is a log, or which one in a row. */
const NOTHING = /^(?:log|logs|chat|session|history|messages?|part|page|file|\d{1,4})?$/i;

/** Reads the place of a log: files named by a day or a session belong to the folder that they lie in. */
export function placeOf(path: string): LogPlace {
  const segments = path.split('/');
  const file = segments.pop()!;
  const folders = withoutDates(segments);
  const bare = file.replace(/\.(?:\w{2,5})$/, '');
  const rest = bare.replace(STAMP, '').replace(/^[\s._-]+|[\s._-]+$/g, '');
  const isSession = rest !== bare && NOTHING.test(rest);
  const isDay = isDayNumber(bare, segments);
  const all =
    (isSession || isDay) && folders.length > 0 ? folders : [...folders, rest === '' ? bare : rest];
  return { key: all.join('/'), name: all[all.length - 1]!, group: all.slice(0, -1).join('/') };
}

/** A file called `05` in a folder of a month. */
function isDayNumber(bare: string, folders: readonly string[]): boolean {
  return NUMBER.test(bare) && folders.some((folder) => DATED_FOLDER.test(folder));
}

function withoutDates(folders: readonly string[]): string[] {
  let inYear = false;
  return folders.filter((folder) => {
    const isDate = DATED_FOLDER.test(folder) || (inYear && NUMBER.test(folder));
    inYear = YEAR.test(folder) || (inYear && isDate);
    return !isDate;
  });
}
