import type { FoundFile } from './dump';
import type { CardFile } from './files';
import { joinParts, type CardMessage } from './join';
import {
  readIccid,
  readImsi,
  readNumbers,
  readServiceCentres,
  readSms,
  type CardContact,
  type CardContent
} from './records';

/** Everything that a card's files tell. */
export interface CardReading {
  messages: CardMessage[];
  contacts: CardContact[];
  dialled: CardContact[];
  ownNumbers: CardContact[];
  serviceCentres: string[];
  iccid: string | null;
  imsi: string | null;
}

export function readCard(files: readonly FoundFile[]): CardReading {
  const of = (...kinds: CardFile[]): CardContent[] =>
    files.filter(({ file }) => kinds.includes(file)).map(({ content }) => content);
  const numbers = (kind: CardFile, extension: CardFile): CardContact[] =>
    of(kind).flatMap((content) => readNumbers(content, of(extension)[0] ?? null));
  const first = (kind: CardFile, read: (bytes: Uint8Array) => string | null): string | null =>
    of(kind)
      .map(({ bytes }) => read(bytes))
      .find((value) => value !== null) ?? null;
  return {
    messages: joinParts(of('sms').flatMap(readSms)),
    contacts: [...numbers('adn', 'ext1'), ...numbers('fdn', 'ext2')],
    dialled: numbers('lnd', 'ext1'),
    ownNumbers: numbers('msisdn', 'ext1'),
    serviceCentres: [...new Set(of('smsp').flatMap(readServiceCentres))],
    iccid: first('iccid', readIccid),
    imsi: first('imsi', readImsi)
  };
}

/** Whether there is anything on it that a person would call the contents of a card. */
export function isCard({ messages, contacts, iccid, imsi, dialled }: CardReading): boolean {
  return messages.length + contacts.length + dialled.length > 0 || iccid !== null || imsi !== null;
}
