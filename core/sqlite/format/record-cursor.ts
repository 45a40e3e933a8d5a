import { readVarint, type TextEncoding, type Varint } from '../../host';
import { decodeValue, serialSize, type SqlValue } from './record';

const MOST_COLUMNS = 512;
const scratch: Varint = { value: 0, size: 0 };

/** Where the values of one record lie, without decoding them; used again for the next record. */
export class RecordCursor {
  bytes: Uint8Array = new Uint8Array(0);
  /** Values that the record holds. */
  count = 0;
  /** Serial types (file format, section 2.1). */
  readonly types = new Int32Array(MOST_COLUMNS);
  readonly starts = new Int32Array(MOST_COLUMNS + 1);

  /** Reads the record header at `at`; false when it does not close, or the values do not end before `end`. */
  read(bytes: Uint8Array, at: number, end: number): boolean {
    this.bytes = bytes;
    this.count = 0;
    const head = readVarint(bytes, at, end, scratch);
    const headerEnd = at + head.value;
    if (head.size === 0 || headerEnd > end) return false;
    const { types, starts } = this;
    let pos = at + head.size;
    let value = headerEnd;
    let count = 0;
    while (pos < headerEnd) {
      let type = bytes[pos++]!;
      if (type >= 0x80) {
        const serial = readVarint(bytes, pos - 1, headerEnd, scratch);
        if (serial.size === 0) return false;
        type = serial.value;
        pos += serial.size - 1;
      }
      if (count === MOST_COLUMNS || type === 10 || type === 11) return false;
      types[count] = type;
      starts[count++] = value;
      value += serialSize(type);
      if (value > end) return false;
    }
    starts[count] = value;
    this.count = count;
    return true;
  }

  value(column: number, encoding: TextEncoding): SqlValue {
    return decodeValue(this.bytes, this.starts[column]!, this.types[column]!, encoding);
  }
}
