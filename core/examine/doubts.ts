import type { Findings, MessageBatch, Note } from '../records';

/** What records of a file are worth whose package's checksum speaks against it. */
const MOST_CERTAIN = 60;
const REASON = 'the archive that holds the file keeps another checksum of it';

/** Files that are not what their packages say of them. */
export class Doubts {
  private readonly byPath = new Map<string, Note>();
  private untold: Note[] = [];

  add(note: Note): void {
    if (note.path === null || this.byPath.has(note.path)) return;
    this.byPath.set(note.path, note);
    this.untold.push(note);
  }

  /** Notes that were not told yet. */
  take(): Note[] {
    return this.untold.splice(0);
  }

  /** Whether a file, or an archive around it, is in doubt. */
  concern(path: string): boolean {
    if (this.byPath.size === 0) return false;
    return [...this.byPath.keys()].some((known) => path === known || path.startsWith(`${known}/`));
  }
}

/** Records of a file in doubt are believed less, and say so. */
export function doubtBatch({ lines, origins }: MessageBatch): void {
  const { certainty } = lines;
  for (let i = 0; i < certainty.length; i++) certainty[i] = Math.min(certainty[i]!, MOST_CERTAIN);
  const more = JSON.stringify(REASON);
  origins.reasonForms = origins.reasonForms.map(({ before, after, hasNumber }) => ({
    before,
    after: before + after === '' ? more : `${after},${more}`,
    hasNumber
  }));
}

export function doubtFindings(findings: Findings): void {
  for (const record of [...findings.calls, ...findings.contacts])
    record.certainty = Math.min(record.certainty, MOST_CERTAIN);
  for (const store of findings.stores) store.limits = [...store.limits, `Note that ${REASON}.`];
}
