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
const NOTHING =
  /^(?:log|logs|chats?|session|history|messages?|conversations?|part|page|file|\d{1,4})?$/i;
/** One of those words with which one in a row it is. */
const NUMBERED =
  /^(?:log|chat|session|history|messages?|conversation|part|page|file)[\s._-]*\d{0,4}$/i;

/** Reads the place of a log: files named by a day or a session belong to the folder that they lie in. */
export function placeOf(path: string): LogPlace {
  const segments = path.split('/');
  const file = segments.pop()!;
  const folders = withoutSessions(withoutDates(segments));
  const bare = withoutEnding(file);
  const rest = withoutStamp(bare);
  const folder = folders[folders.length - 1];
  const isSession = rest !== bare && (NOTHING.test(rest) || sameName(rest, folder));
  // A file called like any other is one of the folder's, unless the folder is called so too.
  const isNumbered = NUMBERED.test(bare) && folder !== undefined && !NOTHING.test(folder);
  const isOfFolder = isSession || isNumbered || isDayNumber(bare, segments);
  const all = isOfFolder && folders.length > 0 ? folders : [...folders, rest === '' ? bare : rest];
  return { key: all.join('/'), name: all[all.length - 1]!, group: all.slice(0, -1).join('/') };
}

function withoutEnding(name: string): string {
  return name.replace(/\.(?:[a-z]\w{1,8})$/i, '');
}

function withoutStamp(name: string): string {
  return name.replace(STAMP, '').replace(/^[\s._()[\]-]+|[\s._()[\]-]+$/g, '');
}

function sameName(name: string, folder: string | undefined): boolean {
  return folder !== undefined && name.toLowerCase() === folder.toLowerCase();
}

/** Folders that a session has for itself, called like the folder around them and by a day, are none of a conversation. */
function withoutSessions(folders: readonly string[]): string[] {
  return folders.filter((folder, i) => {
    const rest = withoutStamp(withoutEnding(folder));
    return rest === withoutEnding(folder) || !sameName(rest, folders[i - 1]);
  });
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
