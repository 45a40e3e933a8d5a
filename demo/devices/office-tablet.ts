import type { HandsetContents } from '../../bench/handsets/contents';
import { makeEvidence } from '../evidence';
import { media } from '../media';
import { callHistory, contactBook } from '../more/phone-backup';

const AT = Date.UTC(2026, 10, 1, 20);

/** The tablet from the office, on which the committee writes. */
export async function officeTablet(): Promise<HandsetContents> {
  const [, tablet] = await makeEvidence();
  return {
    at: AT,
    stores: [
      {
        kind: 'messages',
        owner: 'HomeDomain',
        path: 'Library/SMS/sms.db',
        bytes: tablet!.bytes
      },
      {
        kind: 'calls',
        owner: 'HomeDomain',
        path: 'Library/CallHistoryDB/CallHistory.storedata',
        bytes: callHistory()
      },
      {
        kind: 'contacts',
        owner: 'HomeDomain',
        path: 'Library/AddressBook/AddressBook.sqlitedb',
        bytes: contactBook()
      }
    ],
    media: ['grant-letter.heic', 'harbour-morning.jpg'].map((name, i) => ({
      owner: 'MediaDomain',
      path: `Media/DCIM/100/IMG_007${i}.${name.split('.')[1]}`,
      bytes: media(name)
    })),
    deleted: [media('quay.webp')]
  };
}
