import type { Production, ProductionContact } from '../model';
import { shown } from '../parts';
import { visible } from '../../shown';
import { textFile, type ProducedFile } from './format';

const LONGEST_LINE = 75;

/** Address book cards, version 4.0 (RFC 6350), of the contacts and of those who take part without being one. */
export function* produceCards(production: Production): Generator<ProducedFile> {
  const cards = [...production.contacts.map(contactCard), ...partyCards(production)];
  yield textFile('contacts.vcf', cards.map(card).join(''));
}

type Property = [name: string, value: string];

function contactCard(contact: ProductionContact): Property[] {
  const name = shown(contact.name) || contact.phones.concat(contact.emails).map(shown)[0] || '';
  return [
    ['FN', escaped(name)],
    ...contact.phones.map((phone): Property => ['TEL;VALUE=text', escaped(shown(phone))]),
    ...contact.emails.map((email): Property => ['EMAIL', escaped(shown(email))]),
    ...optional('ORG', shown(contact.organisation)),
    ...optional('NOTE', noteOf(contact))
  ];
}

function noteOf({ note, state, source }: ProductionContact): string {
  const facts = state === 'live' ? '' : `${state}, from ${source}`;
  return [shown(note), facts].filter((text) => text !== '').join('\n');
}

function partyCards({ threads, contacts }: Production): Property[][] {
  const known = new Set(
    contacts.flatMap(({ phones, emails }) => [...phones, ...emails].map((a) => bare(shown(a))))
  );
  const cards = new Map<string, Property[]>();
  for (const { participants } of threads)
    for (const { name, address } of participants) {
      const at = shown(address);
      if (at === '' || known.has(bare(at)) || cards.has(at)) continue;
      const kind = /^[^\s@]+@[^\s@]+$/.test(at) ? 'EMAIL' : 'TEL;VALUE=text';
      cards.set(at, [
        ['FN', escaped(shown(name) || at)],
        [kind, escaped(at)]
      ]);
    }
  return [...cards.values()];
}

function bare(address: string): string {
  return /\d{5}/.test(address) ? address.replace(/\D/g, '') : address.toLowerCase();
}

function optional(name: string, value: string): Property[] {
  return value === '' ? [] : [[name, escaped(value)]];
}

/** Section 3.4: backslashes, commas, semicolons and line ends are escaped. */
function escaped(text: string): string {
  return visible(text)
    .replace(/[\\,;]/g, (char) => `\\${char}`)
    .replace(/\r\n|\r|\n|\u2028|\u2029/g, '\\n')
    .replaceAll('\t', ' ');
}

function card(properties: Property[]): string {
  const lines = [
    'BEGIN:VCARD',
    'VERSION:4.0',
    ...properties.map(([name, value]) => `${name}:${value}`),
    'END:VCARD'
  ];
  return lines.map((line) => `${folded(line)}\r\n`).join('');
}

const encoder = new TextEncoder();

/** Section 3.2: no line has more than 75 bytes; one that goes on begins with a blank. */
function folded(line: string): string {
  let out = '';
  let length = 0;
  for (const char of line) {
    const size = encoder.encode(char).length;
    if (length + size > LONGEST_LINE) {
      out += '\r\n ';
      length = 1;
    }
    out += char;
    length += size;
  }
  return out;
}
