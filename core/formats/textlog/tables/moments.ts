import {
  dateAt,
  orderOf,
  timeAt,
  usualDigits,
  type DateOrder,
  type WrittenDate,
  type WrittenTime
} from '../moment';

/** A cell that holds a day, a time of day, or both. */
interface Written {
  date: WrittenDate | null;
  time: WrittenTime | null;
}

/** Share of a column's filled cells that must be moments. */
const MOSTLY = 0.95;
const LEAST = 3;

/**
 * The cells of a sheet with moments written as people write them (`03.06.2024`,
 * `6/3/2024 9:05 PM`) put as ISO 8601 writes them; all other cells as they are.
 * Whether the day or the month stands first is settled by the whole column.
 */
export function withPlainMoments(cells: readonly string[]): string[] {
  const filled = cells.filter((cell) => cell.trim() !== '');
  const written = filled.map((cell) => (cell.length > LONGEST ? null : writtenIn(cell)));
  const known = written.filter((one) => one !== null);
  if (known.length < LEAST || known.length < filled.length * MOSTLY) return [...cells];
  const dates = known.flatMap(({ date }) => date ?? []);
  const order = orderOf(
    dates,
    filled.some((cell) => /[ap]\.?\s?m\b/i.test(cell))
  );
  return cells.map((cell) => {
    const one = cell.length > LONGEST ? null : writtenIn(cell);
    return one ? isoOf(one, order) : cell;
  });
}

const LONGEST = 40;

/** Null where the cell is no moment, or one that is written in an ISO form already. */
function writtenIn(cell: string): Written | null {
  const text = usualDigits(cell.trim());
  if (/^\d{4}-?\d\d-?\d\d/.test(text) || /^\d{1,2}:\d\d(:\d\d)?$/.test(text)) return null;
  const dated = dateAt(text);
  const rest = dated ? text.slice(dated.end).replace(/^[T,\s]+/, '') : text;
  if (dated && rest === '') return { date: dated.date, time: null };
  const timed = timeAt(rest);
  if (!timed || rest.slice(timed.end).trim() !== '') return null;
  return { date: dated?.date ?? null, time: timed.time };
}

function isoOf({ date, time }: Written, order: DateOrder): string {
  const day = date && dayOf(date, order);
  const clock = time && [time.hour, time.minute, time.second].map(two).join(':');
  return [day, clock].filter((part) => part !== null).join(' ');
}

function dayOf(date: WrittenDate, order: DateOrder): string {
  const { year } = date;
  if (date.kind === 'settled') return `${year}-${two(date.month)}-${two(date.day)}`;
  const [day, month] =
    order === 'day-first' ? [date.first, date.second] : [date.second, date.first];
  return `${year}-${two(month)}-${two(day)}`;
}

function two(value: number): string {
  return String(value).padStart(2, '0');
}
