import ical, { ICalCalendarMethod } from 'ical-generator';
import { STATE_MARKS, type Production, type ProductionCall } from '../model';
import { shown } from '../parts';
import { visible } from '../../shown';
import { textFile, type ProducedFile } from './format';

/** Calls as entries of a calendar (RFC 5545), times in UTC. */
export function* produceCalendar({ head, calls }: Production): Generator<ProducedFile> {
  const calendar = ical({
    name: visible(head.title),
    prodId: { company: 'Ombudsman', product: 'records', language: 'EN' },
    method: ICalCalendarMethod.PUBLISH
  });
  const stamp = new Date(head.made);
  for (const call of calls) {
    if (call.at === null) continue;
    calendar.createEvent({
      id: `${encodeURIComponent(call.id)}@ombudsman.invalid`,
      start: new Date(call.at),
      end: new Date(call.at + (call.seconds ?? 0) * 1000),
      stamp,
      summary: summaryOf(call),
      description: descriptionOf(call)
    });
  }
  yield textFile('calls.ics', `${calendar.toString().trimEnd()}\r\n`);
}

const WORDS: Record<ProductionCall['direction'], string> = {
  incoming: 'Call from',
  outgoing: 'Call to',
  missed: 'Missed call from',
  unknown: 'Call with'
};

function summaryOf({ direction, who, address }: ProductionCall): string {
  const name = shown(who) || shown(address) || 'an unknown number';
  return visible(`${WORDS[direction]} ${name}`);
}

function descriptionOf({ address, seconds, state, certainty, source }: ProductionCall): string {
  const lasted = seconds === null ? 'length unknown' : `${seconds} seconds`;
  const known = state === 'live' ? '' : `, ${STATE_MARKS[state].word}, certainty ${certainty}`;
  return visible(`${shown(address)}, ${lasted}${known}, from ${source}`);
}
