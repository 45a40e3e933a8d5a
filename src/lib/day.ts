import { format, isValid, parse } from 'date-fns';

/** What a day is typed as: with its month's name, or in an order that cannot be mistaken. */
const FORMS = ['d MMM yyyy', 'd MMMM yyyy', 'yyyy-MM-dd', 'd.M.yyyy'];

/**
 * The day that a text names, as `2026-03-12`; null where it names none. Days written with
 * slashes are not taken: whether the month stands first depends on the country.
 */
export function readDay(text: string): string | null {
  const wanted = text.trim().replace(/\s+/g, ' ');
  for (const form of FORMS) {
    const date = parse(wanted, form, new Date(2000, 0, 1));
    if (isValid(date) && date.getFullYear() >= 1000) return format(date, 'yyyy-MM-dd');
  }
  return null;
}

/** A day as it is shown: `12 Mar 2026`. */
export function dayText(day: string): string {
  return format(parse(day, 'yyyy-MM-dd', new Date(2000, 0, 1)), 'd MMM yyyy');
}

/** A text in which days stand as `2026-03-12`, with each as it is shown. */
export function withDays(text: string): string {
  return text.replace(/\b\d{4}-\d\d-\d\d\b/g, dayText);
}
