/** A value of a log's entry, as a database would hold it. */
export type LogValue = string | number | null;

/** Entries of a structured log as rows, each with its place in the file. */
export interface LogTable {
  name: string;
  path: string;
  columns: string[];
  rows: { values: LogValue[]; offset: number; length: number }[];
}

/** Entries as they are found: fields by name. */
export interface LogRow {
  fields: Map<string, string>;
  offset: number;
  length: number;
}

const MOST_COLUMNS = 200;

/** Rows with the same columns; numbers where a whole column holds nothing else. */
export function tableOf(name: string, path: string, rows: LogRow[]): LogTable {
  const columns = [...new Set(rows.flatMap(({ fields }) => [...fields.keys()]))].slice(
    0,
    MOST_COLUMNS
  );
  const numeric = columns.map((column) =>
    rows.every(({ fields }) => isNumber(fields.get(column) ?? ''))
  );
  return {
    name,
    path,
    columns,
    rows: rows.map(({ fields, offset, length }) => ({
      values: columns.map((column, i) => valueOf(fields.get(column), numeric[i]!)),
      offset,
      length
    }))
  };
}

/** Written as a program would write a number, so that nothing is lost by reading it as one. */
function isNumber(text: string): boolean {
  return text === '' || /^-?(0|[1-9]\d{0,14})(\.\d{1,9})?$/.test(text);
}

function valueOf(text: string | undefined, numeric: boolean): LogValue {
  if (text === undefined || text === '') return null;
  return numeric ? Number(text) : text;
}
