import type { RowColumns } from './model';

/**
 * Gives lines their numbers, counted through the case in the order of
 * conversations and times. A number once given stays, as `given` names it by
 * the key of the message's id; later finds get the numbers after the last.
 * @returns the last number that is given now.
 */
export function numberRows(
  { line, idKey }: Pick<RowColumns, 'line' | 'idKey'>,
  given: Map<number, number>,
  last: number,
  isSure: boolean
): number {
  for (let row = 0; row < line.length; row++) {
    const known = given.get(idKey[row]!);
    if (known !== undefined) {
      line[row] = known;
      // No two lines have one number, should their keys ever be the same.
      given.delete(idKey[row]!);
    } else if (isSure) line[row] = ++last;
  }
  return last;
}

/** Numbers by the keys of ids, where there are some. */
export function numbersGiven(
  columns: Iterable<Pick<RowColumns, 'line' | 'idKey'>>
): Map<number, number> {
  const given = new Map<number, number>();
  for (const { line, idKey } of columns)
    for (let row = 0; row < line.length; row++)
      if (line[row]! > 0) given.set(idKey[row]!, line[row]!);
  return given;
}
