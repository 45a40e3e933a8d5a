import { STATE_MARKS } from '$core/produce';
import { STATES, type RecordState } from '$core/records';

/** Shape and word of each state, in the order of the state chips and of keys 1 to 5. */
export const MARKS = STATES.map((state) => ({ state, ...STATE_MARKS[state] }));

export function markOf(state: RecordState): string {
  return STATE_MARKS[state].mark;
}
