import ICAL from 'ical.js';
import Papa from 'papaparse';

/** A name with its addresses, as a list of contacts has it. */
export interface NamedAddresses {
  name: string;
  phones: string[];
  emails: string[];
}

/** What a list of contacts holds, and how many entries could not be used: damaged ones, and those without a name or an address. */
export interface NamesRead {
  named: NamedAddresses[];
  unused: number;
}

export class NamesError extends Error {
  override name = 'NamesError';
}

/**
 * Reads names from a file of contact cards (RFC 6350 and earlier) or from a
 * table of comma or otherwise separated values with a heading row.
 * @throws NamesError when it is neither, or names nobody.
 */
export function readNames(text: string): NamesRead {
  const plain = text.replace(/^\ufeff/, '');
  const { found, total } = /^\s*BEGIN:VCARD/i.test(plain) ? fromCards(plain) : fromTable(plain);
  const named = found.filter(
    ({ name, phones, emails }) => name !== '' && phones.length + emails.length > 0
  );
  if (named.length === 0)
    throw new NamesError('No name with a number or a mail address was found in it.');
  return { named, unused: total - named.length };
}

/** Entries as they stand in a file, and how many there are with those that cannot be read. */
interface Entries {
  found: NamedAddresses[];
  total: number;
}

function fromCards(text: string): Entries {
  // Each card is read by itself, so that a broken one costs no other.
  const cards = text
    .split(/^END:VCARD[^\S\n]*\r?$/im)
    .filter((card) => /BEGIN:VCARD/i.test(card))
    .map((card) => parsed(`${modern(card.trim())}\r\nEND:VCARD\r\n`));
  const found = cards.flat().map((card) => ofCard(new ICAL.Component(card as never)));
  const broken = cards.filter((card) => card.length === 0).length;
  return { found, total: found.length + broken };
}

/** Cards of version 2.1 name kinds without saying what they are, and write other letters as =C3=A6. */
function modern(card: string): string {
  return card
    .replace(/=\r?\n/g, '')
    .replace(/^([^:\r\n]*):(.*)$/gm, (_, head: string, value: string) => {
      const isQuoted = /;(ENCODING=)?QUOTED-PRINTABLE/i.test(head);
      const plain = head
        .replace(/;(ENCODING=)?QUOTED-PRINTABLE|;CHARSET=[^;:]*/gi, '')
        .replace(/;([A-Za-z0-9-]+)(?=;|$)/g, ';TYPE=$1');
      return `${plain}:${isQuoted ? unquoted(value) : value}`;
    });
}

/** RFC 2045, section 6.7, of UTF-8. */
function unquoted(text: string): string {
  const bytes = text.replace(/%/g, '%25').replace(/=([0-9A-F]{2})/gi, '%$1');
  try {
    return decodeURIComponent(bytes);
  } catch (error) {
    if (error instanceof URIError) return text;
    throw error;
  }
}

function parsed(card: string): unknown[] {
  try {
    return [ICAL.parse(card)].flatMap((one: unknown) =>
      Array.isArray(one) && Array.isArray(one[0]) ? one : [one]
    );
  } catch (error) {
    if (error instanceof Error && error.name === 'ParserError') return [];
    throw error;
  }
}

function ofCard(card: ICAL.Component): NamedAddresses {
  const full = card.getFirstPropertyValue('fn');
  const parts = card.getFirstProperty('n')?.getFirstValue();
  const name = typeof full === 'string' && full.trim() !== '' ? full : partsOf(parts);
  return {
    name: name.trim(),
    phones: valuesOf(card, 'tel'),
    emails: valuesOf(card, 'email')
  };
}

/** Family name, given name and others, put in the order in which they are said. */
function partsOf(parts: unknown): string {
  const [family, given, middle] = Array.isArray(parts)
    ? parts.flat().map(String)
    : [String(parts ?? '')];
  return [given, middle, family].filter((part) => part !== undefined && part !== '').join(' ');
}

function valuesOf(card: ICAL.Component, name: string): string[] {
  const all = card
    .getAllProperties()
    .filter((one) => one.name === name || one.name.endsWith(`.${name}`));
  const texts = all.map((one) =>
    String(one.getFirstValue())
      .replace(/^(tel|mailto):/i, '')
      .trim()
  );
  return [...new Set(texts.filter((text) => text !== ''))];
}

const NAME = /^(full|display)?[\s_-]*name$|^contact$|^who$/i;
const GIVEN = /(given|first)[\s_-]*name/i;
const FAMILY = /(family|last|sur)[\s_-]*name/i;
const PHONE = /phone|mobile|tel|number|cell|msisdn|handy/i;
const MAIL = /e?-?mail|address|handle|user/i;

function fromTable(text: string): Entries {
  const { data, meta } = Papa.parse<Record<string, string>>(text, {
    header: true,
    skipEmptyLines: 'greedy'
  });
  const columns = meta.fields ?? [];
  const full = columns.find((column) => NAME.test(column.trim()));
  const [given, family] = [GIVEN, FAMILY].map((kind) => columns.find((one) => kind.test(one)));
  if (full === undefined && given === undefined && family === undefined)
    throw new NamesError('A table needs a heading row with a column called “name”.');
  const others = columns.filter((one) => one !== full && one !== given && one !== family);
  const found = data.map((row) => {
    const told = (column: string | undefined): string =>
      column === undefined ? '' : (row[column] ?? '').trim();
    const values = others.flatMap((column) =>
      told(column)
        .split(/\s*(?:;|:::|\|)\s*/)
        .filter((value) => value !== '')
        .map((value) => ({ column, value }))
    );
    const name = told(full) || [told(given), told(family)].filter((part) => part !== '').join(' ');
    return {
      name,
      phones: values
        .filter(({ column, value }) => PHONE.test(column) || /^\+?[\d\s()/.-]{6,}$/.test(value))
        .map(({ value }) => value),
      emails: values
        .filter(
          ({ column, value }) =>
            value.includes('@') ||
            (MAIL.test(column) && !PHONE.test(column) && !/^\+?[\d\s()/.-]{6,}$/.test(value))
        )
        .map(({ value }) => value)
    };
  });
  return { found, total: found.length };
}
