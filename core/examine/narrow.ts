import type { ReadingProfile, StoreMessage, StoreReading } from '../profiles';
import type { Want } from './types';

/** Whether a profile reads anything that is wanted. */
export function wantsProfile({ kinds }: Want, profile: ReadingProfile): boolean {
  return (
    (profile.messages.length > 0 && kinds.has('messages')) ||
    ((profile.calls ?? []).length > 0 && kinds.has('calls')) ||
    ((profile.contacts ?? []).length > 0 && kinds.has('contacts'))
  );
}

/** What of a store's reading is wanted, before it is folded and joined. */
export function narrowed(want: Want, reading: StoreReading): StoreReading {
  const { kinds } = want;
  const { isWanted, within, hasParty, isNarrow } = narrowing(want);
  return {
    ...reading,
    messages: kinds.has('messages') ? reading.messages.filter(isWanted) : [],
    calls: kinds.has('calls')
      ? reading.calls.filter((call) => within(call.at) && hasParty([call.address]))
      : [],
    contacts: kinds.has('contacts') ? reading.contacts : [],
    // What was left out on purpose is not missing.
    numbered: isNarrow ? [] : reading.numbered
  };
}

interface Narrowing {
  /** Whether a message was asked for. */
  isWanted(message: StoreMessage): boolean;
  within(at: number | null): boolean;
  hasParty(addresses: (string | null)[]): boolean;
  isNarrow: boolean;
}

/** The tests that a pass's narrowing makes. */
export function narrowing({ kinds, from, to, addresses }: Want): Narrowing {
  const digits = addresses.map(bare).filter((address) => address !== '');
  const within = (at: number | null): boolean =>
    (from === null && to === null) ||
    (at !== null && (from === null || at >= from) && (to === null || at <= to));
  const hasParty = (parties: (string | null)[]): boolean =>
    digits.length === 0 ||
    parties.some((address) => address !== null && digits.some((d) => sameParty(d, bare(address))));
  const isNarrow = from !== null || to !== null || digits.length > 0 || !kinds.has('messages');
  const isWanted = (message: StoreMessage): boolean => {
    if (!isNarrow) return true;
    const { sender, thread, sentAt } = message;
    return (
      kinds.has('messages') &&
      within(sentAt) &&
      hasParty([sender, ...thread.participants, thread.key])
    );
  };
  return { isWanted, within, hasParty, isNarrow };
}

/** Telephone numbers by their digits, others in lower case. */
function bare(address: string): string {
  const text = address.trim().toLowerCase();
  return /^[+()\d\s./-]+$/.test(text) ? text.replace(/\D/g, '').replace(/^0+/, '') : text;
}

/** National and international forms share their last digits. */
function sameParty(wanted: string, address: string): boolean {
  if (wanted === address) return true;
  const both = /^\d{7,}$/.test(wanted) && /^\d{7,}$/.test(address);
  return both && (wanted.endsWith(address) || address.endsWith(wanted));
}
