import { toMilliseconds } from '../clock';
import { ID_CLOCKS } from '../id-time';
import type { Clock, Expression } from '../profile';
import { columnFacts } from './column';
import { nameOf, plainName, type Context, type Fit } from './context';
import type { Field } from './fields';

/** When a message was sent, and by which clock. */
export interface WorkedTime {
  expression: Expression;
  clock: Clock;
  field: Field;
}

const TIME_NAME = /(time|date|stamp|created|sent|(^|_)ts$|_at$|when|^at$|clock|moment)/i;
const NOT_SENT =
  /(expir|edit|modif|read|seen|deliver|receiv|recv|rcvd|arriv|update|last|birth|due|mute|sync|server|local|start|end|remind|delete|purge|notif|played|download|ack|receipt)/i;

/** The column, or the two, that tell when. */
export function findTime(context: Context, fit: Fit): WorkedTime | null {
  const scored = [...context.fields, ...pairs(context)]
    .flatMap((field) => {
      const { clock, rows, distinct } = field.facts;
      const filled = field.facts.filled - (field.facts.frequent.get('0') ?? 0);
      if (!clock || filled < rows * 0.5) return [];
      // What many rows share is a moment of their conversation.
      if (field.hops > 0 && distinct < filled * 0.3) return [];
      const name = plainName(field.name);
      const named = TIME_NAME.test(name) ? 0.6 : 0;
      const other = NOT_SENT.test(name) ? 0.5 : 0;
      const own = /(^|_)(sent|created)/.test(name) ? 0.1 : 0;
      const inId = isId(clock.clock) ? 0.9 : 0;
      const full = filled / Math.max(1, rows);
      const far = field.isInside ? 0.05 : 0.2 * field.hops;
      const score = clock.share + 0.3 * clock.rising + named + own + full - other - far - inId;
      return [{ field, score: score + (isPair(field) ? 0.3 : 0), isNamed: named > 0 }];
    })
    .sort((a, b) => b.score - a.score);
  const [first, second] = scored;
  if (!first) return null;
  const { field, isNamed } = first;
  const { clock, share } = field.facts.clock!;
  const unsure =
    second !== undefined &&
    second.score > first.score - 0.2 &&
    !isId(second.field.facts.clock!.clock) &&
    differs(field, second.field);
  fit.add(
    (isNamed || isPair(field) ? 30 : 20) * share - (unsure ? 12 : 0),
    `${nameOf(field)} holds times: ${spoken(clock)} puts ${Math.round(share * 100)} % of them between 1995 and 2045`
  );
  return { expression: field.expression, clock, field };
}

function isId(clock: Clock): boolean {
  return (ID_CLOCKS as readonly string[]).includes(clock);
}

function spoken(clock: Clock): string {
  return isId(clock) ? `what stands in the id (${clock})` : clock.replace('-', ' since ');
}

function isPair({ expression }: Field): boolean {
  return 'joined' in expression && 'each' in expression.joined;
}

const DAY = /^\d{4}([-/.]?)\d{2}\1\d{2}$/;
const TIME_OF_DAY = /^\d{1,2}:\d{2}(:\d{2}([.,]\d+)?)?$|^\d{5,6}$/;

/** A column of days with one of times of day. */
function pairs({ fields, rows }: Context): Field[] {
  const all = (field: Field, pattern: RegExp): boolean => {
    const values = field.values.filter((value) => value !== null && value !== '');
    return (
      values.length >= 3 &&
      values.every((v) => !(v instanceof Uint8Array) && pattern.test(String(v)))
    );
  };
  const near = fields.filter(({ hops, facts }) => hops <= 1 && facts.distinct > 1);
  const days = near.filter((field) => all(field, DAY));
  const times = days.length === 0 ? [] : near.filter((field) => all(field, TIME_OF_DAY));
  return days.flatMap((day) =>
    times
      .filter(({ table, facts }) => table === day.table && facts.filled === day.facts.filled)
      .map((time): Field => {
        const parts = { each: [day.expression, time.expression] };
        const expression: Expression = { joined: parts, by: ' ' };
        const values = rows.valuesOf(expression);
        const name = `${day.name} with ${time.name}`;
        return { ...day, expression, values, name, facts: columnFacts(name, values) };
      })
      .filter(({ facts }) => facts.clock !== null)
  );
}

/** Whether two columns of times tell different moments for many rows. */
function differs(a: Field, b: Field): boolean {
  let apart = 0;
  a.values.forEach((value, i) => {
    const first = toMilliseconds(value, a.facts.clock!.clock);
    const second = toMilliseconds(b.values[i], b.facts.clock!.clock);
    if (first !== null && second !== null && Math.abs(first - second) >= 60_000) apart++;
  });
  return apart > a.values.length * 0.05;
}
