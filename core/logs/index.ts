import type { ChatLog } from './entries';
import { readLineLog } from './lines';
import { readPageLog } from './markup';
import { decodeWhole, linesOf } from './text';

export { placeOf } from './conversation';
export type { LogPlace } from './conversation';
export type { ChatLog, LogEntry } from './entries';
export { tablesInText } from './tables';
export type { LogTable } from './tables';

/** A log of text is not larger than this. */
const MOST_BYTES = 256 << 20;

/** Reads a text file as a chat log; null when it is none. Times without a zone are those of `zone`. */
export function readLog(bytes: Uint8Array, path: string, zone: string): ChatLog | null {
  if (bytes.length === 0 || bytes.length > MOST_BYTES) return null;
  const head = decodeWhole(bytes.subarray(0, 2000)).text;
  const isPage = /^\s*(?:<!doctype html|<html|<head|<body|<div|<p[\s>]|<font|<b>)/i.test(head);
  return isPage ? readPageLog(bytes, path, zone) : readLineLog(linesOf(bytes), path, zone);
}
