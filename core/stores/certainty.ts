import type { FreedRow } from '../sqlite';

/** How well a recovered row is supported, with the reasons in plain words. */
export interface Judgement {
  certainty: number;
  reasons: string[];
}

/**
 * Evidence in bits, from the file's structure, becomes a number from 0 to
 * 99: every 15 bits halve the remaining doubt, starting from one half.
 */
export function judgeRow(row: FreedRow, columns: number): Judgement {
  const doubt = 0.5 * 2 ** (-row.score / 15);
  const reasons = [
    row.lost.length > 0
      ? `header and ${columns - row.lost.length} of ${columns} columns agree with table ${row.table}`
      : `header and ${columns} columns agree with table ${row.table}`
  ];
  if (row.rebuilt > 0)
    reasons.push(`first ${row.rebuilt} bytes of the cell were overwritten and rebuilt`);
  if (row.rowid !== null) reasons.push(rowNumberReason(row));
  if (row.proofs.length > 1) reasons.push(`found in ${row.proofs.length} places`);
  if (row.cut) reasons.push(`${row.cut.bytes} bytes at the end are lost`);
  const certainty = Math.min(99, Math.round(100 * (1 - doubt)));
  return { certainty: row.cut ? Math.min(certainty, 80) : certainty, reasons };
}

function rowNumberReason({ rowid, inferred }: FreedRow): string {
  return inferred
    ? `row number ${rowid} fills the gap between its neighbours`
    : `row number ${rowid} was read`;
}
