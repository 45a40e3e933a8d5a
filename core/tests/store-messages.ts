import type { StoreMessage, StoreProof } from '../profiles';

let made = 0;

/** A live message of which a test says only what it cares about. */
export function storeMessage(told: Partial<StoreMessage>): StoreMessage {
  made++;
  return {
    key: `sms/${made}`,
    table: 'sms',
    rowid: made,
    unique: null,
    direction: 'incoming',
    sender: '+447700900101',
    sentAt: 1_700_000_000_000 + made * 60_000 + 7,
    deliveredAt: null,
    readAt: null,
    body: `line number ${made} of the list`,
    subject: null,
    state: 'live',
    purgeAt: null,
    certainty: 100,
    reasons: [],
    proofs: [proof(made * 100)],
    thread: { key: 't', participants: ['+447700900101'], peer: null, title: null, counted: null },
    attachments: [],
    replyTo: null,
    reactions: [],
    location: null,
    earlierOf: null,
    ...told
  };
}

/** A place in the store's file. */
export function proof(offset: number, told: Partial<StoreProof> = {}): StoreProof {
  return { path: 'a.db', page: 2, offset, length: 80, method: 'table', ...told };
}
