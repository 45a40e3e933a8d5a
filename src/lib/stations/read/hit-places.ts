import type { CorrespondentRow } from '../../service/api/protocol';

/** A row of the as a list hits: whose hits follow, or one of them by its place among theirs. */
export type HitPlace =
  { kind: 'heading'; row: CorrespondentRow } | { kind: 'hit'; row: CorrespondentRow; at: number };

/** Where the hits of each correspondent stand in one as a list, each set below a heading. */
export class HitPlaces {
  readonly total: number;
  /** Place of each heading. */
  private readonly starts: number[] = [];

  constructor(private readonly rows: readonly CorrespondentRow[]) {
    let at = 0;
    for (const { lines } of rows) {
      this.starts.push(at);
      at += lines + 1;
    }
    this.total = at;
  }

  /** What stands at a place of the list; undefined past its end. */
  at(place: number): HitPlace | undefined {
    if (place < 0 || place >= this.total) return undefined;
    let [low, high] = [0, this.starts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.starts[middle]! <= place) low = middle;
      else high = middle - 1;
    }
    const row = this.rows[low]!;
    const at = place - this.starts[low]! - 1;
    return at < 0 ? { kind: 'heading', row } : { kind: 'hit', row, at };
  }

  /** The next hit in a direction, past headings; the same place where there is none. */
  step(place: number, by: 1 | -1): number {
    for (let next = place + by; next >= 0 && next < this.total; next += by)
      if (this.at(next)!.kind === 'hit') return next;
    return place;
  }
}
