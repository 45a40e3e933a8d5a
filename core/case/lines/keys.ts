import type { IdForm, TextColumns } from '../../records';

const FIRST_LOW = 0x811c9dc5 | 0;
const FIRST_HIGH = 0x5f356495;
const LOW = 0x01000193;
const HIGH = 0x85ebca6b | 0;
/** Bits of the lower half that a key keeps, so that it is a whole number below 2^53. */
const KEPT = 2 ** 21;

/** A hash in two halves that can be gone on with. */
interface Halves {
  low: number;
  high: number;
}

const scratch: Halves = { low: 0, high: 0 };
const encoder = new TextEncoder();

function begin(into: Halves): void {
  into.low = FIRST_LOW;
  into.high = FIRST_HIGH;
}

function addBytes(into: Halves, bytes: Uint8Array, start: number, end: number): void {
  let { low, high } = into;
  for (let i = start; i < end; i++) {
    const byte = bytes[i]!;
    low = Math.imul(low ^ byte, LOW);
    high = Math.imul(high ^ byte, HIGH);
    high = (high << 13) | (high >>> 19);
  }
  into.low = low;
  into.high = high;
}

function keyOf({ low, high }: Halves): number {
  const mixed = Math.imul(low ^ (low >>> 15), HIGH);
  return (high >>> 0) * KEPT + ((mixed ^ (mixed >>> 13)) >>> 11);
}

/** A number below 2^53 that tells texts apart: of a million, two share one with a chance of 1 in 18,000. */
export function textKey(bytes: Uint8Array, start = 0, end = bytes.length): number {
  begin(scratch);
  addBytes(scratch, bytes, start, end);
  return keyOf(scratch);
}

/** The same for an id. */
export function idKey(id: string): number {
  return textKey(encoder.encode(id));
}

/** Keys of the ids of a batch, as {@link idKey} gives them, without making the ids. */
export class IdKeys {
  private readonly prefixes = new Map<IdForm, Halves>();
  private readonly digits = new Uint8Array(24);

  at({ idForms, idForm, idNumber }: TextColumns, i: number): number {
    const form = idForms[idForm[i]!]!;
    const { low, high } = this.prefix(form);
    scratch.low = low;
    scratch.high = high;
    if (form.number !== 'none') {
      const from = this.write(idNumber[i]!, form.number === 'decimal' ? 10 : 16);
      addBytes(scratch, this.digits, from, this.digits.length);
    }
    return keyOf(scratch);
  }

  private prefix(form: IdForm): Halves {
    let known = this.prefixes.get(form);
    if (!known) {
      const bytes = encoder.encode(form.prefix);
      known = { low: 0, high: 0 };
      begin(known);
      addBytes(known, bytes, 0, bytes.length);
      this.prefixes.set(form, known);
    }
    return known;
  }

  /** Writes digits to the end; returns where they begin. */
  private write(value: number, base: number): number {
    const { digits } = this;
    let at = digits.length;
    let rest = Math.abs(value);
    do {
      const next = Math.floor(rest / base);
      const digit = rest - next * base;
      digits[--at] = digit < 10 ? 0x30 + digit : 0x57 + digit;
      rest = next;
    } while (rest > 0);
    if (value < 0) digits[--at] = 0x2d;
    return at;
  }
}
