import assert from 'node:assert/strict';
import { test } from 'node:test';
import fc from 'fast-check';
import { binaryPlist, Uid, xmlPlist, type Plain } from '../../../bench/writers/backup';
import { asBytes, asDict, asNumber, asText, asTime, tryPlist, unarchive, type PlistValue } from '.';

/** The plain form of what was read, to be compared with what was written. */
function plain(value: PlistValue): unknown {
  if (value instanceof Map) return Object.fromEntries([...value].map(([k, v]) => [k, plain(v)]));
  if (Array.isArray(value)) return value.map(plain);
  return value instanceof Uint8Array ? Buffer.from(value) : value;
}

const leaf: fc.Arbitrary<Plain> = fc.oneof(
  fc.string({ unit: 'binary' }).filter((s) => !s.includes('\0') && s === Buffer.from(s).toString()),
  fc.integer({ min: 0, max: 2 ** 31 - 1 }),
  fc.boolean(),
  fc.uint8Array({ maxLength: 40 }).map((bytes) => Buffer.from(bytes)),
  fc
    .date({
      min: new Date(Date.UTC(1990, 0)),
      max: new Date(Date.UTC(2090, 0)),
      noInvalidDate: true
    })
    .map((date) => new Date(Math.floor(date.getTime() / 1000) * 1000))
);
const { tree } = fc.letrec<{ tree: Plain }>((tie) => ({
  tree: fc.oneof(
    { depthSize: 'small' },
    leaf,
    fc.array(tie('tree'), { maxLength: 5 }),
    fc.dictionary(fc.string({ minLength: 1, maxLength: 12 }), tie('tree'), {
      maxKeys: 5,
      noNullPrototype: true
    })
  )
}));

test('binary lists that an independent package wrote come back', () => {
  fc.assert(
    fc.property(tree, (value) => {
      const read = tryPlist(binaryPlist([value]));
      assert.deepEqual(plain(read!), [value]);
    })
  );
});

test('XML lists with every type', () => {
  const value = {
    text: 'a < b & "c"',
    whole: 42,
    real: 1.5,
    yes: true,
    no: false,
    when: new Date('2026-04-11T21:04:00Z'),
    bytes: Buffer.from([0, 1, 254, 255]),
    list: ['a', 1, { inner: 'x' }]
  };
  assert.deepEqual(plain(tryPlist(xmlPlist(value))!), value);
});

test('keyed archives are resolved, in the forms that writers use', () => {
  const archive = binaryPlist({
    $version: 100000,
    $archiver: 'NSKeyedArchiver',
    $top: { root: new Uid(1) },
    $objects: [
      '$null',
      {
        $class: new Uid(9),
        Name: new Uid(2),
        Nothing: new Uid(0),
        List: new Uid(3),
        Dict: new Uid(5),
        Data: new Uid(8)
      },
      'Tilda',
      { $class: new Uid(9), 'NS.objects': [new Uid(2), new Uid(4)] },
      7,
      { $class: new Uid(9), 'NS.keys': [new Uid(6)], 'NS.objects': [new Uid(7)] },
      'key',
      'value',
      { $class: new Uid(9), 'NS.data': Buffer.from('abc') },
      { $classname: 'X', $classes: ['X'] }
    ]
  });
  const fields = asDict(unarchive(tryPlist(archive)))!;
  assert.equal(asText(fields.get('Name')), 'Tilda');
  assert.equal(fields.get('Nothing'), null);
  assert.deepEqual(plain(fields.get('List')!), ['Tilda', 7]);
  assert.deepEqual(plain(fields.get('Dict')!), { key: 'value' });
  assert.equal(Buffer.from(asBytes(fields.get('Data'))!).toString(), 'abc');
  assert.equal(asNumber('no number'), null);
  assert.equal(asTime(new Date(5)), 5);
});

test('objects that hold each other, and counts past the end, are no lists', () => {
  const selfish = binaryPlist([['x']]);
  // The inner list is made to hold the outer one.
  selfish[8 + 1] = 0;
  selfish[selfish.length - 32 - 3 - 1] = 0;
  for (const bytes of [selfish, Buffer.from('bplist00'), Buffer.alloc(80, 0xff), Buffer.alloc(0)]) {
    tryPlist(bytes);
  }
  const honest = binaryPlist({ a: ['b', { c: 1 }] });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 5 }),
      (flips) => {
        const bytes = Uint8Array.from(honest);
        for (const [at, value] of flips) bytes[at % bytes.length] = value;
        unarchive(tryPlist(bytes));
      }
    ),
    { numRuns: 2000 }
  );
});
