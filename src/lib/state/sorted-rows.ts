import {
  createTable,
  getCoreRowModel,
  getSortedRowModel,
  type ColumnDef,
  type SortingState
} from '@tanstack/table-core';

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
  const columns: ColumnDef<Row>[] = [
    {
      id: 'by',
      accessorFn: (row) => sorter(row) ?? undefined,
      sortUndefined: 'last',
      sortingFn: (a, b) => compare(a.getValue('by'), b.getValue('by'))
    }
  ];
  const sorting: SortingState = [{ id: 'by', desc: order.isDown }];
  const table = createTable<Row>({
    data: [...rows],
    columns,
    state: { sorting, columnPinning: { left: [], right: [] } },
    onStateChange: () => undefined,
    renderFallbackValue: null,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel()
  });
  return table.getSortedRowModel().rows.map(({ original }) => original);
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
