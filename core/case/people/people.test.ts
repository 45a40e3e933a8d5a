import assert from 'node:assert/strict';
import { test } from 'node:test';
import type { Contact, Person } from '../../records';
import { peopleCorpus, scoreJoins } from '../../tests/people-corpus';
import { findJoins, joinPeople, NamesError, readNames, UNDECIDED, type Join } from '.';

function person(address: string, name: string | null = null): Person {
  return { id: `p:${address}`, name, addresses: [address], owner: false };
}

function contact(name: string, phones: string[], emails: string[] = []): Contact {
  return {
    id: `c:${name}`,
    store: 's1.1',
    person: null,
    name,
    phones,
    emails,
    organisation: null,
    note: null,
    state: 'live',
    certainty: 100,
    proofs: []
  };
}

function told(joins: readonly Join[]): string[] {
  return joins.map(
    ({ a, b, reason, isSure }) =>
      `${a.slice(2)} = ${b.slice(2)} by ${reason}${isSure ? '' : ', to be decided'}`
  );
}

interface Case {
  says: string;
  people: Person[];
  contacts?: Contact[];
  gives: string[];
}

const CASES: Case[] = [
  {
    says: 'a number with its country and as it is dialled at home',
    people: [person('+447700900123'), person('07700900123')],
    gives: ['+447700900123 = 07700900123 by number']
  },
  {
    says: 'a number before the sign of an address',
    people: [person('+447700900123'), person('447700900123@s.chat.example')],
    gives: ['+447700900123 = 447700900123@s.chat.example by number']
  },
  {
    says: 'the same last digits in two countries are two numbers, and what is dialled at home can be either',
    people: [person('+4740123456'), person('+4540123456'), person('40123456')],
    gives: [
      '+4740123456 = 40123456 by number, to be decided',
      '+4540123456 = 40123456 by number, to be decided'
    ]
  },
  {
    says: 'a short number is nobody’s telephone',
    people: [person('81212'), person('+4781212')],
    gives: []
  },
  {
    says: 'a contact with two addresses, one of them written with blanks',
    people: [person('+4740123456'), person('aino@post.example')],
    contacts: [contact('Aino Holm', ['401 23 456'], ['Aino@post.example'])],
    gives: ['+4740123456 = aino@post.example by contact']
  },
  {
    says: 'a number that two contacts have joins nobody by itself',
    people: [person('+4740123456'), person('+4740999888'), person('+4722123456')],
    contacts: [
      contact('Aino Holm', ['+4740123456', '+4722123456']),
      contact('Birk Holm', ['+4740999888', '+4722123456'])
    ],
    gives: [
      '+4722123456 = +4740123456 by contact, to be decided',
      '+4722123456 = +4740999888 by contact, to be decided'
    ]
  },
  {
    says: 'namesakes are proposed, and single names are not',
    people: [
      person('+4740123456', 'Aino Holm'),
      person('gull77', 'Áino Holm'),
      person('+4740999888', 'Birk'),
      person('x', 'Birk')
    ],
    gives: ['+4740123456 = gull77 by name, to be decided']
  }
];

for (const { says, people, contacts = [], gives } of CASES)
  test(says, () => {
    const found = findJoins({ people, contacts, shared: [] });
    assert.deepEqual(told(found).sort(), [...gives].sort());
  });

test('what was written at the same moments is sure when it is often, and nobody else shares as much', () => {
  const people = ['a', 'b', 'c', 'd'].map((id) => person(id));
  const shared = [
    { a: 'p:a', b: 'p:b', count: 9, of: 10 },
    { a: 'p:a', b: 'p:d', count: 1, of: 10 },
    { a: 'p:c', b: 'p:d', count: 3, of: 3 }
  ];
  assert.deepEqual(told(findJoins({ people, contacts: [], shared })), [
    'a = b by conversation',
    'c = d by conversation, to be decided'
  ]);
  const rivals = [...shared, { a: 'p:b', b: 'p:c', count: 8, of: 10 }];
  assert.ok(findJoins({ people, contacts: [], shared: rivals }).every(({ isSure }) => !isSure));
});

test('what was parted by hand stays apart, whatever speaks for it, and a join by hand needs no reason', () => {
  const join = (a: string, b: string): Join => ({
    a,
    b,
    reason: 'number',
    text: '',
    isSure: true
  });
  const found = [join('p:a', 'p:b'), join('p:b', 'p:c')];
  const all = joinPeople(found, UNDECIDED);
  assert.deepEqual(all.individuals[0]!.members, ['p:a', 'p:b', 'p:c']);
  const parted = joinPeople(found, { together: [], apart: [['p:a', 'p:c']] });
  assert.deepEqual(
    parted.individuals.map(({ members }) => members),
    [['p:a', 'p:b']]
  );
  assert.deepEqual(
    parted.undone.map(({ b }) => b),
    ['p:c']
  );
  const byHand = joinPeople([], { together: [['p:x', 'p:+47']], apart: [] });
  assert.deepEqual(byHand.individuals[0], {
    id: 'p:+47',
    members: ['p:+47', 'p:x'],
    joins: [{ a: 'p:x', b: 'p:+47', reason: 'hand', text: 'Joined by hand.', isSure: true }]
  });
});

test('of 200 people in four sources no two are taken for one, and most addresses find together', () => {
  for (const seed of [11, 12]) {
    const { wrong, proposed, made, right } = scoreJoins(peopleCorpus(seed));
    assert.deepEqual(
      wrong.map(({ text }) => text),
      []
    );
    assert.ok(proposed / right > 0.9, `${proposed} of ${right} proposed`);
    assert.ok(made / right > 0.5, `${made} of ${right} made`);
  }
});

test('names come from contact cards of any version, folded and quoted', () => {
  const cards = [
    'BEGIN:VCARD\r\nVERSION:3.0\r\nN:Holm;Aino;;;\r\nFN:Aino Holm\r\nTEL;TYPE=CELL:+47 401 23 456\r\nitem1.EMAIL;type=INTERNET:aino@post.exa\r\n mple\r\nEND:VCARD',
    'BEGIN:VCARD\nVERSION:4.0\nFN:Bøe\\, Birk\nTEL;VALUE=uri:tel:+47-409-99-888\nEND:VCARD',
    'BEGIN:VCARD\nVERSION:3.0\nthis is no property\nEND:VCARD',
    'BEGIN:VCARD\nVERSION:2.1\nN;CHARSET=UTF-8;ENCODING=QUOTED-PRINTABLE:D=C3=A6hl;Gorm\nTEL;CELL:40555666\nEND:VCARD'
  ].join('\r\n');
  const { named, unused } = readNames(cards);
  assert.equal(unused, 1);
  assert.deepEqual(named, [
    { name: 'Aino Holm', phones: ['+47 401 23 456'], emails: ['aino@post.example'] },
    { name: 'Bøe, Birk', phones: ['+47-409-99-888'], emails: [] },
    { name: 'Gorm Dæhl', phones: ['40555666'], emails: [] }
  ]);
});

test('names come from tables of any separator, with one column of names or two', () => {
  const table = '\ufeffName;Phone 1;E-mail\n"Holm; Aino";+47 401 23 456;aino@post.example\n;1;\n';
  assert.equal(readNames(table).unused, 1);
  assert.deepEqual(readNames(table).named, [
    { name: 'Holm; Aino', phones: ['+47 401 23 456'], emails: ['aino@post.example'] }
  ]);
  const parts = 'First name,Last name,Mobile\nBirk,Bøe,409 99 888 ::: 409 99 889\n';
  assert.deepEqual(readNames(parts).named, [
    { name: 'Birk Bøe', phones: ['409 99 888', '409 99 889'], emails: [] }
  ]);
  for (const wrong of ['', 'hello', 'a,b\n1,2\n', 'name,phone\n'])
    assert.throws(() => readNames(wrong), NamesError, wrong);
});
