import type { ZonedTime } from '$core/shown';
import { lifeOf, statesOf, type Database, type FileState, type RowEvent } from '$core/sqlite';
import type { InsideRecord } from '../api/protocol';

/** When the message with a row number was sent; null where it is not known. */
export type MomentOfRow = (rowid: number) => number | null;

/** The states of a database, and what they tell of its rows in plain words. */
export class FileHistory {
  private readonly states: FileState[];
  private readonly commits: number;

  constructor(private readonly database: Database) {
    this.states = statesOf(database);
    this.commits = this.states.filter(({ kind }) => kind === 'commit').length;
  }

  /** Nothing where there is one state only, so that nothing can have happened. */
  of(table: string, rowid: number, momentOf: MomentOfRow, time: ZonedTime): InsideRecord['life'] {
    const schema = this.database.table(table);
    if (!schema || this.states.length < 2 || schema.declaration.withoutRowid) return [];
    const events = lifeOf(this.states, schema, rowid, this.database.pages.usable);
    return events.map((event) => ({
      what: event.what,
      text: `${this.said(event)}${bounds(event, momentOf, time)}`
    }));
  }

  private said({ what, state }: RowEvent): string {
    const verb = what === 'there' ? 'in' : `${what} by`;
    return `${verb} ${this.named(state)}`;
  }

  private named({ kind, number }: RowEvent['state']): string {
    switch (kind) {
      case 'file':
        return 'the file itself';
      case 'commit':
        return `commit ${number} of ${this.commits} in the log`;
      case 'older':
        return `commit ${number} from before the log began anew`;
      case 'open':
        return 'what was never committed';
      case 'before':
        return 'the state before the journal';
    }
  }
}

/** Rows come in the order of time: the newest before a change was there already, the next one was not. */
function bounds({ what, newestAfter }: RowEvent, momentOf: MomentOfRow, time: ZonedTime): string {
  if (what === 'there' || newestAfter === null) return '';
  const from = momentOf(newestAfter);
  const to = momentOf(newestAfter + 1);
  if (from !== null && to !== null && to >= from)
    return `, between ${time.full(from)} and ${time.full(to)}`;
  return from === null ? '' : `, not before ${time.full(from)}`;
}
