export { ByteRangeError, ChunkedSource, MemorySource, readExactly } from './source';
export type { ByteSource } from './source';
export { f64be, intBe, u16be, u32be } from './numbers';
export { readVarint, readVarintSigned, varintSize } from './varint';
export type { Varint } from './varint';
export { decodeStrict, decodeText, isPlausibleText } from './text';
export type { TextEncoding } from './text';
