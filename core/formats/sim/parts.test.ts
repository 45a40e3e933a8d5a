import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { Deliver } from 'node-pdu';
import { packSeptets, smsRecord } from '../../../bench/writers/card';
import { decodeAlpha, decodeSeptets, knowsShifts, unpackSeptets } from './alphabet';
import { joinParts, type CardRecord } from './join';
import { decodeAddress, decodeDigits, decodeNumber, decodeTime } from './number';
import { parseMessage, type Tpdu } from './tpdu';

test('septets that were packed at any bit come back', () => {
  fc.assert(
    fc.property(fc.array(fc.nat(127), { maxLength: 60 }), fc.nat(6), (septets, fill) => {
      const packed = packSeptets(septets, fill);
      assert.deepEqual(unpackSeptets(packed, septets.length, fill), septets);
    })
  );
});

test('septets are never read past the end of their octets', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 20 }), fc.nat(300), fc.nat(200), (bytes, count, bit) => {
      const septets = unpackSeptets(bytes, count, bit);
      const most = Math.max(0, Math.ceil((bytes.length * 8 - bit) / 7));
      assert.ok(septets.length <= Math.min(count, most));
      assert.ok(septets.every((septet) => septet >= 0 && septet < 128));
    })
  );
});

test('each code of the default alphabet is one character, and those behind an escape too', () => {
  const all = Array.from({ length: 128 }, (_, code) => code).filter((code) => code !== 0x1b);
  const text = decodeSeptets(all);
  assert.equal([...text].length, 127);
  assert.equal(new Set(text).size, 127, 'no two codes are alike');
  assert.equal(decodeSeptets([0x1b, 0x65, 0x1b, 0x3c, 0x1b, 0x3e]), '€[]');
  // An unknown character behind an escape is that of the main table; an escape at the end is nothing.
  assert.equal(decodeSeptets([0x1b, 0x41, 0x1b]), 'A');
});

test('which national tables are known is told', () => {
  assert.ok(knowsShifts({ locking: 0, single: 0 }));
  assert.ok(knowsShifts({ locking: 3, single: 1 }));
  assert.ok(!knowsShifts({ locking: 2, single: 0 }));
  assert.ok(!knowsShifts({ locking: 0, single: 9 }));
});

test('alpha fields of any bytes are text, and no longer than their bytes allow', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 30 }), (field) => {
      const text = decodeAlpha(field);
      assert.ok(text.length <= 2 * field.length);
      assert.ok(!text.includes('\uffff'));
    })
  );
  assert.equal(decodeAlpha(new Uint8Array(0)), '');
});

/** Digits with their half octets swapped, the slow way. */
function swappedDigits(digits: string): Uint8Array {
  const even = digits.length % 2 === 0 ? digits : `${digits}F`;
  return Buffer.from(even.replace(/(.)(.)/g, '$2$1'), 'hex');
}

test('numbers of any length come back, with a sign where they are international', () => {
  const digits = fc.stringMatching(/^[0-9]{1,20}$/);
  fc.assert(
    fc.property(digits, (number) => {
      const bytes = swappedDigits(number);
      assert.equal(decodeDigits(bytes), number);
      assert.equal(decodeNumber(0x91, bytes), `+${number}`);
      assert.equal(decodeNumber(0x81, bytes), number);
      const field = Buffer.concat([Buffer.from([number.length, 0x91]), bytes, Buffer.from([9])]);
      assert.deepEqual(decodeAddress(field, 0), { address: `+${number}`, next: field.length - 1 });
    })
  );
  assert.equal(decodeDigits(Uint8Array.of(0xba, 0xdc, 0xfe)), '*#pwe');
  assert.equal(decodeNumber(0x91, Uint8Array.of(0xff)), '');
});

test('addresses that cannot be are refused', () => {
  const cases: [string, number[]][] = [
    ['nothing', []],
    ['a length alone', [11]],
    ['more digits than a number has', [21, 0x91, ...Array<number>(11).fill(0x11)]],
    ['a type without its mark', [4, 0x11, 0x21, 0x43]],
    ['fewer digits than its length says', [8, 0x91, 0x21, 0x43]]
  ];
  for (const [says, bytes] of cases)
    assert.equal(decodeAddress(Uint8Array.from(bytes), 0), null, says);
  const named = Buffer.concat([Buffer.from([10, 0xd0]), packSeptets([0x51, 0x75, 0x61, 0x79], 0)]);
  assert.equal(
    decodeAddress(Buffer.concat([named, Buffer.alloc(5)]), 0)?.address.slice(0, 4),
    'Quay'
  );
});

/** A time stamp as a centre writes it, the slow way. */
function stamp(at: number, quarters: number): Uint8Array {
  const local = new Date(at + quarters * 900_000);
  const two = (n: number): string => String(n).padStart(2, '0').split('').reverse().join('');
  const parts = [
    local.getUTCFullYear() % 100,
    local.getUTCMonth() + 1,
    local.getUTCDate(),
    local.getUTCHours(),
    local.getUTCMinutes(),
    local.getUTCSeconds()
  ];
  const zone = Math.abs(quarters);
  const byte = ((zone % 10) << 4) | Math.floor(zone / 10) | (quarters < 0 ? 8 : 0);
  return Buffer.concat([Buffer.from(parts.map(two).join(''), 'hex'), Buffer.from([byte])]);
}

test('any moment in any zone reads back from its stamp', () => {
  const seconds = fc.integer({ min: Date.UTC(1991, 0) / 1000, max: Date.UTC(2088, 0) / 1000 });
  fc.assert(
    fc.property(seconds, fc.integer({ min: -48, max: 56 }), (second, quarters) => {
      assert.equal(decodeTime(stamp(second * 1000, quarters), 0), second * 1000);
    })
  );
});

test('stamps that name no moment are refused', () => {
  for (const hex of [
    '62130000000000',
    '62112341500000',
    '62112304500000',
    '62112341A60000',
    'ffffffffffffff',
    '621123'
  ])
    assert.equal(decodeTime(Buffer.from(hex, 'hex'), 0), null, hex);
});

test('any bytes are a message or none, and messages have an address and a text', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 175 }), (bytes) => {
      const message = parseMessage(bytes);
      if (message) assert.ok(typeof message.address === 'string' && message.text.length <= 1120);
    }),
    { numRuns: 3000 }
  );
});

test('a message that is damaged or cut never makes the reader fail', () => {
  const [pdu] = new Deliver(
    '+447700900123',
    'The ferry leaves at seven, with Grüße'
  ).getPartStrings();
  const record = smsRecord(1, pdu!).subarray(1);
  const whole = parseMessage(record)!.text;
  for (let cut = 0; cut < record.length; cut++) {
    const text = parseMessage(record.subarray(0, cut))?.text ?? '';
    assert.ok(whole.startsWith(text), `${cut}: ${text}`);
  }
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(record.length - 1), fc.nat(255)), { maxLength: 4 }),
      (flips) => {
        const damaged = Uint8Array.from(record);
        for (const [at, byte] of flips) damaged[at] = byte;
        const message = parseMessage(damaged);
        assert.ok(message === null || message.text.length < 400);
      }
    ),
    { numRuns: 2000 }
  );
});

function record(told: Partial<Tpdu>, deleted = false): CardRecord {
  const tpdu: Tpdu = {
    direction: 'incoming',
    address: '+447700900123',
    sentAt: 1_700_000_000_000,
    serviceCentre: null,
    text: 'x',
    part: null,
    report: false,
    unsure: false,
    ...told
  };
  return { tpdu, deleted, place: { path: 'EF_SMS', offset: 0, length: 176 } };
}

function part(number: number, text: string, told: Partial<Tpdu> = {}, deleted = false): CardRecord {
  return record({ text, part: { reference: 7, wide: false, total: 3, number }, ...told }, deleted);
}

test('parts are joined in any order', () => {
  const parts = [part(1, 'one '), part(2, 'two '), part(3, 'three')];
  fc.assert(
    fc.property(fc.shuffledSubarray(parts, { minLength: 3 }), (shuffled) => {
      const [message, ...more] = joinParts(shuffled);
      assert.deepEqual([message!.text, message!.missing, more.length], ['one two three', [], 0]);
      assert.equal(message!.places.length, 3);
    })
  );
});

test('what differs in anything that parts share is another message', () => {
  const base = [part(1, 'one '), part(2, 'two '), part(3, 'three')];
  const others: [string, CardRecord][] = [
    ['another address', part(2, 'zwei ', { address: '+1' })],
    ['the other direction', part(2, 'zwei ', { direction: 'outgoing' })],
    ['deleted', part(2, 'zwei ', {}, true)],
    ['days later', part(2, 'zwei ', { sentAt: 1_700_000_000_000 + 4 * 86_400_000 })],
    ['another text for the same number', part(2, 'zwei ')],
    ['alone', record({ text: 'zwei ' })]
  ];
  for (const [says, other] of others) {
    const messages = joinParts([...base, other]);
    assert.equal(messages.length, 2, says);
    assert.equal(messages[0]!.text, 'one two three', says);
  }
});

test('a part that is there twice is one part', () => {
  const messages = joinParts([part(1, 'one '), part(1, 'one '), part(2, 'two '), part(3, 'three')]);
  assert.deepEqual(
    messages.map(({ text, places }) => [text, places.length]),
    [['one two three', 4]]
  );
});
