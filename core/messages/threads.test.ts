import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { Thread } from '../records';
import { guessHome, normaliseAddress, shownAddress } from './address';
import { correspondents, mergePeople } from './correspondents';

test('addresses of one person take one form', () => {
  const cases: [string, 'GB' | 'NO' | null, string][] = [
    ['+44 7700 900184', null, '+447700900184'],
    ['07700 900184', 'GB', '+447700900184'],
    ['(07700) 900-184', 'GB', '+447700900184'],
    ['\u202a+44 7700 900184\u202c', null, '+447700900184'],
    ['tel:+447700900184', null, '+447700900184'],
    ['Ottar@Quay.Example', null, 'ottar@quay.example'],
    ['72022', 'GB', '72022'],
    ['HARBOUR', 'GB', 'HARBOUR'],
    ['07700900184', null, '07700900184'],
    ['+1 (555) 555-0142', null, '+15555550142']
  ];
  for (const [raw, region, form] of cases)
    assert.equal(normaliseAddress(raw, region && { country: region }), form, raw);
});

test('national numbers belong where most international ones do', () => {
  const home = guessHome(['+447700900184', '+447700900185', '+4721000000', '0770']);
  assert.deepEqual(home, { callingCode: '44' });
  assert.equal(normaliseAddress('07700 900222', home), '+447700900222');
  assert.equal(guessHome(['72022']), null);
  assert.equal(shownAddress('+447700900184'), '+44 7700 900184');
  assert.equal(shownAddress('ottar@quay.example'), 'ottar@quay.example');
});

function thread(id: string, participants: string[], title: string | null = null): Thread {
  return { id, store: id.split('/')[0]!, participants, title, group: participants.length > 1 };
}

test('threads of several stores with the same people are one correspondent', () => {
  const rows = correspondents([
    thread('a/1', ['p:1']),
    thread('b/9', ['p:1']),
    thread('a/2', ['p:1', 'p:2'], 'Crew'),
    thread('b/3', ['p:2', 'p:1'], 'Crew'),
    thread('b/4', ['p:2', 'p:1'], 'Committee'),
    thread('b/5', [])
  ]);
  assert.deepEqual(
    rows.map((row) => row.threads),
    [['a/1', 'b/9'], ['a/2', 'b/3'], ['b/4'], ['b/5']]
  );
});

test('a known name is kept when people of another store are joined', () => {
  const person = (name: string | null) => ({ id: 'p:1', name, addresses: ['1'], owner: false });
  assert.equal(mergePeople([person('Known')], [person('Other')])[0]!.name, 'Known');
  assert.equal(mergePeople([person(null)], [person('Found')])[0]!.name, 'Found');
});
