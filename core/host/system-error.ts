/** What the system says when it refuses, as the end of a sentence that begins with a file. */
const REASONS: Readonly<Record<string, string>> = {
  ENOSPC: 'could not be unpacked: the disk for temporary files is full',
  EDQUOT: 'could not be unpacked: the disk for temporary files is full',
  QuotaExceededError: 'could not be unpacked: there is no room left for temporary files',
  EMFILE: 'could not be opened: too many files are open on this machine',
  ENFILE: 'could not be opened: too many files are open on this machine',
  EACCES: 'cannot be read by this user',
  EPERM: 'cannot be read by this user',
  NotReadableError: 'cannot be read, or has changed since it was chosen',
  NotFoundError: 'was removed after it was chosen',
  ENOENT: 'is not there',
  EIO: 'could not be read: its disk reports an error',
  EISDIR: 'is a folder'
};

/** What the system says when it refuses to write, as the end of a sentence that begins with the place. */
const WRITE_REASONS: Readonly<Record<string, string>> = {
  ENOSPC: 'has no room left',
  EDQUOT: 'has no room left for this user',
  EACCES: 'cannot be written by this user',
  EPERM: 'cannot be written by this user',
  EROFS: 'is read only',
  ENOENT: 'is not there',
  ENOTDIR: 'is not a folder',
  EISDIR: 'is a folder',
  EEXIST: 'is there already',
  ELOOP: 'is a link that leads back to itself',
  ENAMETOOLONG: 'has a name that is too long',
  EIO: 'could not be written: its disk reports an error',
  EMFILE: 'could not be opened: too many files are open on this machine',
  ENFILE: 'could not be opened: too many files are open on this machine'
};

/** Why the system refused to write, as the end of a sentence; null for errors that are not the system's. */
export function writeReason(error: unknown): string | null {
  const code = codeOf(error);
  return code === null ? null : (WRITE_REASONS[code] ?? `could not be written (${code})`);
}

/** A machine that has run out of something reads nothing else either. */
const EXHAUSTED = new Set(['ENOSPC', 'EDQUOT', 'QuotaExceededError', 'EMFILE', 'ENFILE', 'EIO']);

function codeOf(error: unknown): string | null {
  if (!(error instanceof Error)) return null;
  if ('syscall' in error && 'code' in error) return String(error.code);
  return error.name in REASONS ? error.name : null;
}

/** Why the system refused a file, as the end of a sentence; null for errors that are not the system's. */
export function systemReason(error: unknown): string | null {
  const code = codeOf(error);
  return code === null ? null : (REASONS[code] ?? `could not be read (${code})`);
}

/** Whether the machine, and not the file, is to blame. */
export function isExhausted(error: unknown): boolean {
  return EXHAUSTED.has(codeOf(error) ?? '');
}
