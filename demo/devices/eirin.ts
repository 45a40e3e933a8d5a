import type { HandsetContents } from '../../bench/handsets/contents';
import { makeEvidence } from '../evidence';
import { media } from '../media';
import { telephonyCalls, telephonyContacts } from './people-stores';

const AT = Date.UTC(2026, 10, 1, 18);

/** The handset of the treasurer, with the store whose thread was thinned out in spring. */
export async function eirinsHandset(): Promise<HandsetContents> {
  const [phone] = await makeEvidence();
  return {
    at: AT,
    stores: [
      {
        kind: 'messages',
        owner: 'org.example.telephony',
        path: 'databases/mmssms.db',
        bytes: phone!.bytes
      },
      {
        kind: 'calls',
        owner: 'org.example.calls',
        path: 'databases/calllog.db',
        bytes: telephonyCalls(['halvard', 'ragna', 'bjarne', 'second'], AT - 6e9, 60, 6)
      },
      {
        kind: 'contacts',
        owner: 'org.example.contacts',
        path: 'databases/contacts2.db',
        bytes: telephonyContacts(
          ['halvard', 'ragna', 'sunniva', 'bjarne', 'ingrid', 'yevhen', 'ottar'],
          'kostas'
        )
      }
    ],
    media: ['harbour-morning.jpg', 'hull-plan.png', 'out-of-the-harbour.mp4'].map((name) => ({
      owner: 'shared',
      path: `Pictures/${name}`,
      bytes: media(name)
    })),
    deleted: [media('slip.jpg')]
  };
}
