import { TZDate } from '@date-fns/tz';

const HOUR = 3_600_000;
export const DAY = 24 * HOUR;

/** Tells what the clock on the wall says in a zone; asking the calendar for each of many moments would take long. */
export class WallClock {
  private readonly offsets = new Map<number, number>();

  constructor(readonly zone: string) {}

  /** Milliseconds since 1970 as the clock on the wall has them. */
  wall(at: number): number {
    const hour = Math.floor(at / HOUR);
    let offset = this.offsets.get(hour);
    if (offset === undefined) {
      offset = -new TZDate(hour * HOUR, this.zone).getTimezoneOffset() * 60_000;
      this.offsets.set(hour, offset);
    }
    return at + offset;
  }

  /** Days on the wall since the first of January 1970. */
  day(at: number): number {
    return Math.floor(this.wall(at) / DAY);
  }

  /** The moment at which such a day begins. */
  startOf(day: number): number {
    const date = new Date(day * DAY);
    return new TZDate(
      date.getUTCFullYear(),
      date.getUTCMonth(),
      date.getUTCDate(),
      this.zone
    ).getTime();
  }
}
