import type { CorrespondentRow } from '../../service/api/protocol';
import type { Kind, Sort } from '../../state/reading.svelte';

const BY: Record<Sort, (a: CorrespondentRow, b: CorrespondentRow) => number> = {
  lines: (a, b) => b.lines - a.lines,
  recent: (a, b) => (b.last ?? -Infinity) - (a.last ?? -Infinity),
  recovered: (a, b) => b.notLive - a.notLive,
  name: (a, b) => Number(b.named) - Number(a.named) || a.name.localeCompare(b.name)
};

/** Correspondents in the order and of the kind that was asked for; notices stand apart, at the end. */
export function arranged(
  rows: readonly CorrespondentRow[],
  sort: Sort,
  kind: Kind
): { rows: CorrespondentRow[]; notices: CorrespondentRow[] } {
  const wanted = rows
    .filter(({ group }) => kind === 'all' || group === (kind === 'groups'))
    .sort((a, b) => BY[sort](a, b) || a.name.localeCompare(b.name));
  return {
    rows: wanted.filter(({ isNotice }) => !isNotice),
    notices: wanted.filter(({ isNotice }) => isNotice)
  };
}
