/** What a card's files are made of. Everything is written octet by octet as the specifications say. */

const SMS_RECORD = 176;

/** A record of EF_SMS around a message as a modem writes it: service centre, then TPDU, in hex. */
export function smsRecord(status: number, pdu: string): Buffer {
  const record = Buffer.alloc(SMS_RECORD, 0xff);
  record[0] = status;
  Buffer.from(pdu, 'hex').copy(record, 1);
  return record;
}

/** A card's own way of deleting: only the status changes. */
export function deleted(record: Buffer): Buffer {
  const copy = Buffer.from(record);
  copy[0] = 0;
  return copy;
}

export function emptyRecord(): Buffer {
  const record = Buffer.alloc(SMS_RECORD, 0xff);
  record[0] = 0;
  return record;
}

/** Swapped half octets, filled with 0xF. */
export function bcd(digits: string): Buffer {
  const codes = Array.from(digits, (digit) => '0123456789*#pwe'.indexOf(digit));
  if (codes.length % 2) codes.push(15);
  return Buffer.from(codes.flatMap((code, i) => (i % 2 ? [] : [code | (codes[i + 1]! << 4)])));
}

/** A record of EF_ADN and its like; the alpha field takes what is left of the length. */
export function numberRecord(
  alpha: Buffer,
  number: string,
  length: number,
  extension = 0xff
): Buffer {
  const record = Buffer.alloc(length, 0xff);
  alpha.copy(record, 0);
  const international = number.startsWith('+');
  const digits = bcd(number.replace('+', '')).subarray(0, 10);
  const tail = length - 14;
  record[tail] = digits.length + 1;
  record[tail + 1] = international ? 0x91 : 0x81;
  digits.copy(record, tail + 2);
  record[length - 1] = extension;
  return record;
}

/** An extension record with the digits that did not fit. */
export function extensionRecord(digits: string): Buffer {
  const record = Buffer.alloc(13, 0xff);
  const bytes = bcd(digits);
  record[0] = 2;
  record[1] = bytes.length;
  bytes.copy(record, 2);
  return record;
}

/** Septets one after the other, as TS 23.038 packs them; `fill` bits come first. */
export function packSeptets(septets: number[], fill = 0): Buffer {
  const out = Buffer.alloc(Math.ceil((septets.length * 7 + fill) / 8));
  septets.forEach((septet, i) => {
    const bit = fill + i * 7;
    const value = septet << (bit & 7);
    out[bit >> 3]! |= value & 255;
    if (value > 255) out[(bit >> 3) + 1]! |= value >> 8;
  });
  return out;
}
