import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { Contact, Person } from '../records';
import { nameByContacts } from './contacts';

function person(address: string, name: string | null = null): Person {
  return { id: `p:${address}`, name, addresses: [address], owner: false };
}

function contact(name: string | null, phones: string[], emails: string[] = []): Contact {
  const facts = { store: 's', person: null, organisation: null, note: null, proofs: [] };
  return { ...facts, id: `c:${name}`, name, phones, emails, state: 'live', certainty: 100 };
}

test('names follow numbers however they are written', () => {
  const contacts = [
    contact('Tilda', ['07700 900123']),
    contact('Ansel', [], ['Ansel@Mail.Example']),
    contact('Twin A', ['+44 7700 900999']),
    contact('Twin B', ['07700-900999']),
    contact(null, ['07700 900555'])
  ];
  const cases: [Person, string | null][] = [
    [person('+447700900123'), 'Tilda'],
    [person('07700900123'), 'Tilda'],
    [person('ansel@mail.example'), 'Ansel'],
    [person('+447700900999'), null],
    [person('+447700900555'), null],
    [person('+447700900123', 'Known already'), 'Known already'],
    [person('72022'), null],
    [{ ...person('+447700900123'), owner: true }, null]
  ];
  for (const [who, name] of cases) {
    assert.equal(nameByContacts([who], contacts)[0]!.name, name, who.id);
  }
});
