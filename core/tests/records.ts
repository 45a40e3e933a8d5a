import type { Message } from '../records';

/** A live message's record of which a test says only what it cares about. */
export function messageRecord(told: Partial<Message> & { id: string }): Message {
  return {
    store: 's1.1',
    thread: 's1.1/t/x',
    sender: 'p:+447700900101',
    direction: 'incoming',
    sentAt: 1_700_000_000_000,
    deliveredAt: null,
    readAt: null,
    body: 'the keys are under the stone',
    subject: null,
    state: 'live',
    purgeAt: null,
    replaces: null,
    certainty: 100,
    reasons: [],
    proofs: [],
    attachments: [],
    replyTo: null,
    reactions: [],
    location: null,
    ...told
  };
}
