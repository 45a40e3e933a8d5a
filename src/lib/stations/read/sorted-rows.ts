/** By what the rows of a table stand: a column by its place, and whether from its end. */
export interface Order {
  column: number;
  isDown: boolean;
}

/** What a column is ordered by; null where it cannot be. */
export type Sorter<Row> = ((row: Row) => string | number | null) | null;

/** Rows in an order; those whose value is unknown come last. */
export function sortedRows<Row>(
  rows: readonly Row[],
  sorters: readonly Sorter<Row>[],
  order: Order | null
): readonly Row[] {
  const sorter = order && sorters[order.column];
  if (!order || !sorter) return rows;
  const way = order.isDown ? -1 : 1;
  const keyed = rows.map((row) => ({ row, key: sorter(row) }));
  return keyed
    .sort((a, b) => {
      if (a.key === null || b.key === null) return Number(a.key === null) - Number(b.key === null);
      return way * compare(a.key, b.key);
    })
    .map(({ row }) => row);
}

const collator = new Intl.Collator('en', { numeric: true });

function compare(a: string | number, b: string | number): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return collator.compare(String(a), String(b));
}

/** The order after a press on a column's heading: up, down, as it was. */
export function nextOrder(order: Order | null, column: number): Order | null {
  if (order?.column !== column) return { column, isDown: false };
  return order.isDown ? null : { column, isDown: true };
}
