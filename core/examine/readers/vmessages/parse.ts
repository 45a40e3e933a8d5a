/** Reads vMessage objects (IrMC 1.1, section 9.3): text messages as handsets of the time before smartphones save them, one or many in a file. */
import { writtenMoment, type TextLine } from '../../../formats/textlog';

export interface VMessage {
  /** Place in the file, in bytes. */
  offset: number;
  length: number;
  isOutgoing: boolean | null;
  sentAt: number | null;
  /** Its time was written without a zone. */
  isZoneless: boolean;
  text: string;
  /** The card in front: of whom it comes from. */
  from: VParty | null;
  /** The cards in its envelopes: of those to whom it goes. */
  to: VParty[];
}

export interface VParty {
  name: string | null;
  address: string | null;
}

/** A property of an object: `NAME;PARAMETER=VALUE:value`. */
interface Property {
  name: string;
  parameters: string;
  value: string;
}

const PROPERTY = /^([A-Z][A-Z0-9-]*)((?:;[^:;]*)*):(.*)$/is;
/** What stands in a body before the text. */
const OF_BODY = /^(?:date|subject|x-[a-z0-9-]+)$/i;
const OUT = /^(?:sent|sentbox|sendbox|outbox|submit)$/i;
const IN = /^(?:inbox|deliver)$/i;

/** Whether a text begins with such an object. */
export function isVMessage(lines: readonly TextLine[]): boolean {
  return lines.some(({ text }, i) => i < LEADING && /^\s*BEGIN:VMSG\s*$/i.test(text));
}

/** Lines in front of the first object. */
const LEADING = 5;

/** All objects of a file; one that is cut off ends where the next begins, or with the file. */
export function* readVMessages(lines: readonly TextLine[], zone: string): Generator<VMessage> {
  let reader: ObjectReader | null = null;
  for (const line of lines) {
    if (/^\s*BEGIN:VMSG\s*$/i.test(line.text)) {
      if (reader) yield reader.end(line.offset);
      reader = new ObjectReader(line.offset, zone);
    } else if (reader && /^\s*END:VMSG\s*$/i.test(line.text)) {
      yield reader.end(line.offset + line.length);
      reader = null;
    } else reader?.take(line.text);
  }
  const last = lines[lines.length - 1];
  if (reader && last) yield reader.end(last.offset + last.length);
}

class ObjectReader {
  private readonly open: string[] = [];
  private readonly properties: Property[] = [];
  private readonly body: string[] = [];
  private isInText = false;
  private card: VParty | null = null;
  private from: VParty | null = null;
  private readonly to: VParty[] = [];
  /** A line that goes on in the next one. */
  private begun = '';

  constructor(
    private readonly offset: number,
    private readonly zone: string
  ) {}

  take(text: string): void {
    const edge = /^\s*(BEGIN|END):(VCARD|VENV|VBODY)\s*$/i.exec(text);
    if (edge) this.edge(edge[1]!.toUpperCase(), edge[2]!.toUpperCase());
    else if (this.inside('VBODY') && this.isInText) this.body.push(text);
    else this.property(text);
  }

  private inside(name: string): boolean {
    return this.open[this.open.length - 1] === name;
  }

  private edge(what: string, name: string): void {
    this.begun = '';
    if (what === 'BEGIN') {
      this.open.push(name);
      if (name === 'VCARD') this.card = { name: null, address: null };
      return;
    }
    const at = this.open.lastIndexOf(name);
    if (at >= 0) this.open.length = at;
    if (name !== 'VCARD' || !this.card) return;
    if (this.open.includes('VENV')) this.to.push(this.card);
    else this.from ??= this.card;
    this.card = null;
  }

  private property(text: string): void {
    const whole = this.begun + text;
    const found = PROPERTY.exec(whole);
    if (found && /QUOTED-PRINTABLE/i.test(found[2]!) && whole.endsWith('=')) {
      this.begun = whole.slice(0, -1);
      return;
    }
    this.begun = '';
    const isOfBody = found !== null && OF_BODY.test(found[1]!);
    if (this.inside('VBODY') && !isOfBody) {
      this.isInText = true;
      this.body.push(whole);
    } else if (found) {
      const property = { name: found[1]!.toUpperCase(), parameters: found[2]!, value: found[3]! };
      if (this.card) takeOfCard(this.card, property);
      else this.properties.push(property);
    }
  }

  end(at: number): VMessage {
    const date = this.value(/^X-[A-Z]+-DT$/) ?? this.value(/^DATE$/);
    const subject = this.properties.find(({ name }) => name === 'SUBJECT');
    return {
      offset: this.offset,
      length: at - this.offset,
      isOutgoing: this.side(),
      sentAt: date === null ? null : writtenMoment(date, this.zone),
      isZoneless: date !== null && !/Z\s*$/.test(date),
      text: this.body.length > 0 || !subject ? this.body.join('\n') : decoded(subject),
      from: this.from,
      to: this.to
    };
  }

  private value(name: RegExp): string | null {
    return this.properties.find((property) => name.test(property.name))?.value.trim() ?? null;
  }

  private side(): boolean | null {
    const box = this.value(/^X-(?:IRMC-)?BOX$/) ?? this.value(/^X-MESSAGE-TYPE$/);
    if (box !== null && OUT.test(box)) return true;
    return box !== null && IN.test(box) ? false : null;
  }
}

function takeOfCard(card: VParty, property: Property): void {
  const value = decoded(property).trim();
  if (value === '') return;
  if (property.name === 'TEL' || property.name === 'EMAIL') card.address ??= value;
  // Family name and given name stand the other way round.
  else if (property.name === 'N')
    card.name ??= value.split(';').filter(Boolean).reverse().join(' ') || null;
  else if (property.name === 'FN') card.name = value;
}

/** A value as it was meant (RFC 2045, section 6.7). */
function decoded({ parameters, value }: Property): string {
  if (!/QUOTED-PRINTABLE/i.test(parameters)) return value;
  const bytes: number[] = [];
  const plain = new TextEncoder();
  for (const [part, hex] of value.matchAll(/=([0-9A-F]{2})|[^=]+|=/gi))
    if (hex === undefined) bytes.push(...plain.encode(part));
    else bytes.push(parseInt(hex, 16));
  const charset = /CHARSET=([^;:]+)/i.exec(parameters)?.[1] ?? 'utf-8';
  return decoderFor(charset).decode(Uint8Array.from(bytes));
}

function decoderFor(charset: string): TextDecoder {
  try {
    return new TextDecoder(charset.replaceAll('"', ''));
  } catch (error) {
    // A name that nobody knows says nothing of the bytes.
    if (error instanceof RangeError) return new TextDecoder('utf-8');
    throw error;
  }
}
