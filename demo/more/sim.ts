import { bcd, deleted, emptyRecord, numberRecord, smsRecord } from '../../bench/writers/card';
import { CHARACTERS } from '../people';
import { deliver, deliverLong, submit } from '../../bench/writers/pdu';

/** The card of the old handset as a folder of its elementary files. */
export function simCard(): Record<string, Uint8Array> {
  const { halvard, ragna, yevhen } = CHARACTERS;
  const at = (day: number, hour: number): number => Date.UTC(2025, 9, day, hour, 12, 30);
  const long = deliverLong(
    halvard.address,
    at(14, 17),
    0x42,
    'Keep this off the other phone: the yard wants the first half in notes, no paper, and then it gives you the launch date in writing. Ask Bjarne, he did the same for his boat in the spring.'
  );
  const records = [
    smsRecord(1, deliver(ragna.address, at(2, 9), 'New number, old Ragna. Save it.')),
    deleted(smsRecord(1, deliver(halvard.address, at(9, 20), 'Can you bring cash on Friday?'))),
    smsRecord(5, submit(halvard.address, 'How much?')),
    deleted(smsRecord(1, long[0]!)),
    deleted(smsRecord(1, long[1]!)),
    smsRecord(1, deliver(yevhen.address, at(20, 7), 'Добрий ранок. Двигун готовий.')),
    emptyRecord(),
    emptyRecord()
  ];
  const length = 28;
  return {
    '3F00/2FE2': bcd('8944700000000000184'),
    '3F00/7F20/6F07': Buffer.from('082943070000001048', 'hex'),
    '3F00/7F10/6F3C': Buffer.concat(records),
    '3F00/7F10/6F3A': Buffer.concat([
      numberRecord(Buffer.from('Ragna'), ragna.address, length),
      numberRecord(Buffer.from('Yard H.'), halvard.address, length),
      Buffer.alloc(length, 0xff)
    ]),
    '3F00/7F10/6F44': numberRecord(Buffer.alloc(0), halvard.address, length),
    '3F00/7F10/6F40': numberRecord(Buffer.from('Own'), '+447700900001', length)
  };
}
