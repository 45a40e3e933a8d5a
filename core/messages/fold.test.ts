import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { proof, storeMessage } from '../tests/store-messages';
import { isKept, listedFreed, type StoreMessage } from '../profiles';
import { StreamFolder, type FoldedMessage } from './fold';

const AT = 1_700_000_000_123;

/** A freed copy of a message, found elsewhere. */
function freed(of: StoreMessage, told: Partial<StoreMessage> = {}): StoreMessage {
  const place = proof(9000 + Math.floor(Math.random() * 1e9), { method: 'free-block' });
  return {
    ...of,
    key: `${of.table}/@${place.offset.toString(16)}`,
    state: 'recovered',
    certainty: 90,
    proofs: [place],
    ...told
  };
}

function told(messages: FoldedMessage[]): string[] {
  return messages
    .map(
      ({ body, state, proofs, replacesKey }) => `${state} ${proofs.length} ${replacesKey} ${body}`
    )
    .sort();
}

function folded(messages: readonly StoreMessage[]): FoldedMessage[] {
  const own = messages.map((message) => structuredClone(message));
  const folder = new StreamFolder(listedFreed(own.filter((one) => !isKept(one))), () => true);
  const out = own.filter(isKept).map((message) => folder.live(message));
  for (const message of folder.rest(() => []))
    if (message && !('until' in message)) out.push(message);
  return out;
}

interface Case {
  says: string;
  make: () => StoreMessage[];
  gives: (body: string) => string[];
}

const BODY = 'the keys are under the third stone';
const base = (): StoreMessage => storeMessage({ body: BODY, sentAt: AT, rowid: 5, key: 'sms/5' });

const CASES: Case[] = [
  {
    says: 'a freed copy of a live message is one record with two proofs',
    make: () => [base(), freed(base())],
    gives: (body) => [`live 2 null ${body}`]
  },
  {
    says: 'a copy whose read mark differs is the same message',
    make: () => [base(), freed(base(), { readAt: AT + 5000 })],
    gives: (body) => [`live 2 null ${body}`]
  },
  {
    says: 'a copy without its row number is the same message',
    make: () => [base(), freed(base(), { rowid: null })],
    gives: (body) => [`live 2 null ${body}`]
  },
  {
    says: 'the same words under another number are another message',
    make: () => [base(), freed(base(), { rowid: 6 })],
    gives: (body) => [`live 1 null ${body}`, `recovered 1 null ${body}`]
  },
  {
    says: 'another wording of the same number, moment and sender is an earlier one',
    make: () => [base(), freed(base(), { body: 'the keys are gone' })],
    gives: (body) => [`earlier 1 sms/5 the keys are gone`, `live 1 null ${body}`]
  },
  {
    says: 'another moment under the same number is a number used again',
    make: () => [base(), freed(base(), { body: 'other words', sentAt: AT - 10 })],
    gives: (body) => [`live 1 null ${body}`, `recovered 1 null other words`]
  },
  {
    says: 'a cut copy of a live message is no fragment of its own',
    make: () => [base(), freed(base(), { body: 'the keys are\ufffc', state: 'fragment' })],
    gives: (body) => [`live 2 null ${body}`]
  },
  {
    says: 'two copies of a deleted message are one record',
    make: () => [freed(base()), freed(base()), freed(base(), { rowid: null })],
    gives: (body) => [`recovered 3 null ${body}`]
  },
  {
    says: 'a fragment joins the whole deleted message that it is a part of',
    make: () => [freed(base(), { body: 'the keys\ufffc', state: 'fragment' }), freed(base())],
    gives: (body) => [`recovered 2 null ${body}`]
  },
  {
    says: 'the same words with damaged values beside them are the same message',
    make: () => [base(), freed(base(), { sentAt: 12 })],
    gives: (body) => [`live 2 null ${body}`]
  },
  {
    says: 'rows of two tables are two messages',
    make: () => [base(), freed(base(), { table: 'mms', rowid: null })],
    gives: (body) => [`live 1 null ${body}`, `recovered 1 null ${body}`]
  },
  {
    says: 'a unique value tells messages apart that share everything else',
    make: () => [{ ...base(), unique: 'a' }, freed(base(), { unique: 'b', rowid: null })],
    gives: (body) => [`live 1 null ${body}`, `recovered 1 null ${body}`]
  }
];

for (const { says, make, gives } of CASES) {
  test(says, () => {
    assert.deepEqual(told(folded(make())), gives(BODY));
  });
}

test('no message is lost, and none is made', () => {
  const one = fc.record({
    rowid: fc.option(fc.integer({ min: 1, max: 4 })),
    sentAt: fc.constantFrom(AT, AT + 1000, null),
    body: fc.constantFrom(BODY, 'come down to the quay', 'no'),
    state: fc.constantFrom('live' as const, 'recovered' as const)
  });
  fc.assert(
    fc.property(fc.array(one, { maxLength: 8 }), (parts) => {
      const messages = parts.map((part, i) =>
        storeMessage({ ...part, key: `sms/${i}`, proofs: [proof(i * 100)] })
      );
      const found = folded(messages);
      const offsets = found.flatMap(({ proofs }) => proofs.map(({ offset }) => offset));
      assert.deepEqual(
        offsets.sort((a, b) => a - b),
        messages.map((_, i) => i * 100)
      );
      // Live messages are never joined: the store itself tells them apart.
      const live = parts.filter(({ state }) => state === 'live').length;
      assert.equal(found.filter(({ state }) => state === 'live').length, live);
    }),
    { numRuns: 300 }
  );
});
