import { column, lookUp, type ReadingProfile } from '../profile';

/** Recipients of a thread: row numbers of `canonical_addresses`, separated by blanks. */
const recipients = lookUp('threads', '_id', column('thread_id'), {
  words: column('recipient_ids')
});
const recipientAddresses = lookUp('canonical_addresses', '_id', recipients, column('address'));

/** Roles of a row in `addr`: 137 wrote it, 151 and 130 received it. */
function address(...roles: string[]): ReturnType<typeof column> {
  return {
    lookup: {
      table: 'addr',
      match: 'msg_id',
      from: column('_id'),
      where: { column: 'type', is: roles }
    },
    take: column('address')
  };
}

const textParts: ReturnType<typeof column> = {
  lookup: {
    table: 'part',
    match: 'mid',
    from: column('_id'),
    where: { column: 'ct', is: ['text/plain'] }
  },
  take: column('text')
};

/** Telephony provider: plain messages in `sms`, multimedia ones in `pdu`, `part` and `addr`. */
export const telephonyProvider: ReadingProfile = {
  id: 'telephony-provider',
  title: 'telephony provider',
  needs: { sms: ['_id', 'address', 'date', 'type', 'body'] },
  knows: {
    sms: ['thread_id', 'date_sent', 'read', 'subject', 'service_center'],
    threads: ['_id', 'recipient_ids'],
    canonical_addresses: ['_id', 'address'],
    pdu: ['_id', 'thread_id', 'date', 'msg_box'],
    part: ['mid', 'ct', 'text'],
    addr: ['msg_id', 'address', 'type']
  },
  messages: [
    {
      table: 'sms',
      key: '_id',
      body: column('body'),
      subject: column('subject'),
      sentAt: { value: column('date'), clock: 'milliseconds-1970' },
      direction: {
        value: column('type'),
        values: {
          '1': 'incoming',
          '2': 'outgoing',
          '3': 'outgoing',
          '4': 'outgoing',
          '5': 'outgoing',
          '6': 'outgoing'
        },
        otherwise: 'unknown'
      },
      sender: column('address'),
      thread: {
        key: { first: [column('thread_id'), column('address')] },
        participants: { first: [recipientAddresses, column('address')] },
        peer: column('address'),
        counted: lookUp('threads', '_id', column('thread_id'), column('message_count'))
      }
    },
    {
      table: 'pdu',
      key: '_id',
      body: { joined: textParts, by: '\n' },
      subject: column('sub'),
      // Multimedia messages count seconds where plain ones count milliseconds.
      sentAt: { value: column('date'), clock: 'seconds-1970' },
      direction: {
        value: column('msg_box'),
        values: {
          '1': 'incoming',
          '2': 'outgoing',
          '3': 'outgoing',
          '4': 'outgoing',
          '5': 'outgoing'
        },
        otherwise: 'unknown'
      },
      sender: address('137'),
      thread: {
        key: column('thread_id'),
        participants: { first: [recipientAddresses, address('137', '151', '130')] }
      },
      attachments: [
        {
          rows: {
            table: 'part',
            match: 'mid',
            from: column('_id'),
            where: { column: 'ct', not: ['text/plain', 'application/smil'] }
          },
          name: { first: [column('name'), column('fn'), column('cl')] },
          mime: column('ct'),
          path: column('_data')
        }
      ],
      ownerPlaceholders: ['insert-address-token']
    }
  ]
};
