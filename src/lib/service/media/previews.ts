import ICAL from 'ical.js';
import { NamesError, readNames } from '$core/case/people';
import type { CalendarEntry, Preview } from '../api/media-api';
import { officeText } from './office-text';

/** Characters of a text that are shown. */
const MOST_TEXT = 200_000;
/** Bytes of a file that cannot be shown. */
const HEAD = 256;

/** Types that browsers play and show, by what they are. */
const SEEN = /^(image|audio|video)\//;

/**
 * A file as the page can show it.
 * @param mime its type by its content, or by its name where that tells nothing.
 * @param asShown a picture or recording as browsers know it.
 */
export async function previewOf(
  bytes: Uint8Array<ArrayBuffer>,
  name: string,
  mime: string | null,
  asShown: AsShown
): Promise<Preview> {
  const type = mime ?? '';
  if (SEEN.test(type)) return seen(bytes, type, asShown);
  if (type === 'application/pdf') return { kind: 'pdf', bytes };
  const words = officeText(bytes, type);
  if (words) return asText(words, true);
  const text = textOf(bytes);
  if (text !== null) return ofText(text, name, type);
  const what = type === '' ? 'its type is not known' : `files of type ${type} cannot be shown here`;
  return { kind: 'none', reason: `${what}.`, head: bytes.slice(0, HEAD) };
}

type AsShown = (bytes: Uint8Array<ArrayBuffer>) => Promise<Blob>;

async function seen(
  bytes: Uint8Array<ArrayBuffer>,
  type: string,
  asShown: AsShown
): Promise<Preview> {
  const kind = kindOf(type);
  const blob = await asShown(bytes);
  const shown = blob.type === '' ? new Blob([blob], { type }) : blob;
  return { kind, blob: shown, isConverted: blob.size !== bytes.length };
}

function kindOf(type: string): 'picture' | 'sound' | 'video' {
  if (type.startsWith('video/')) return 'video';
  return type.startsWith('audio/') ? 'sound' : 'picture';
}

function ofText(text: string, name: string, type: string): Preview {
  if (/^\s*BEGIN:VCARD/i.test(text)) {
    const cards = cardsOf(text);
    if (cards) return { kind: 'cards', cards };
  }
  if (/^\s*BEGIN:VCALENDAR/i.test(text)) {
    const events = eventsOf(text);
    if (events) return { kind: 'events', events };
  }
  if (text.trim() === '' && !/^text\//.test(type) && !/\.(txt|md|csv|log)$/i.test(name))
    return { kind: 'none', reason: 'it is empty.', head: new Uint8Array(0) };
  return asText(text, false);
}

function asText(text: string, isWordsAlone: boolean): Preview {
  const isCut = text.length > MOST_TEXT;
  return { kind: 'text', text: text.slice(0, MOST_TEXT), isCut, isWordsAlone };
}

function cardsOf(text: string): (Preview & { kind: 'cards' })['cards'] | null {
  try {
    return readNames(text).named;
  } catch (error) {
    // Cards without a number are shown as the text that they are.
    if (error instanceof NamesError) return null;
    throw error;
  }
}

function eventsOf(text: string): CalendarEntry[] | null {
  try {
    const calendar = new ICAL.Component(ICAL.parse(text) as never);
    return calendar.getAllSubcomponents('vevent').map((entry) => {
      const event = new ICAL.Event(entry);
      return {
        summary: event.summary ?? '',
        starts: shown(event.startDate),
        ends: shown(event.endDate),
        place: event.location ?? '',
        attendees: event.attendees.map((one) =>
          String(one.getParameter('cn') ?? one.getFirstValue()).replace(/^mailto:/i, '')
        )
      };
    });
  } catch (error) {
    // What is no calendar is shown as the text that it is.
    if (error instanceof Error) return null;
    throw error;
  }
}

function shown(time: ICAL.Time | null): string {
  if (!time) return '';
  const two = (n: number): string => String(n).padStart(2, '0');
  const day = `${time.year}-${two(time.month)}-${two(time.day)}`;
  if (time.isDate) return day;
  const zone = time.zone?.tzid ?? '';
  return `${day} ${two(time.hour)}:${two(time.minute)} ${zone === 'floating' ? '' : zone}`.trim();
}

/** The text that bytes hold; null where they hold something else. */
export function textOf(bytes: Uint8Array): string | null {
  const [first, second] = bytes;
  if ((first === 0xff && second === 0xfe) || (first === 0xfe && second === 0xff))
    return new TextDecoder(first === 0xff ? 'utf-16le' : 'utf-16be').decode(bytes);
  if (bytes.subarray(0, 4096).includes(0)) return null;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch (error) {
    if (!(error instanceof TypeError)) throw error;
    const text = new TextDecoder('windows-1252').decode(bytes);
    // Few control characters stand in texts.
    const odd = text.match(/[\u0000-\u0008\u000e-\u001f]/g)?.length ?? 0;
    return odd * 100 > text.length ? null : text;
  }
}
