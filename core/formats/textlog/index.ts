import type { ChatLog, TextLine } from './entries';
import { readCountedLog } from './counted';
import { readLineLog } from './lines';
import { readPageLog } from './markup';
import { isSheet } from './tables';
import { decodeWhole, linesOf } from './text';

export { placeOf } from './conversation';
export type { LogPlace } from './conversation';
export type { ChatLog, LogEntry } from './entries';
export { writtenMoment } from './moment';
export { tablesInText } from './tables';
export { linesOf } from './text';
export type { TextLine } from './entries';
export type { LogTable } from './tables';

/** A log of text is not larger than this. */
const MOST_BYTES = 256 << 20;

/** Reads a text file as a chat log; null when it is none. Times without a zone are those of `zone`. */
export function readLog(bytes: Uint8Array, path: string, zone: string): ChatLog | null {
  if (bytes.length === 0 || bytes.length > MOST_BYTES) return null;
  const head = decodeWhole(bytes.subarray(0, 2000)).text;
  const isPage = /^\s*(?:<!doctype html|<html|<head|<body|<div|<p[\s>]|<font|<b>)/i.test(head);
  if (isPage) return readPageLog(bytes, path, zone);
  if (isSheet(bytes)) return null;
  const lines = linesOf(bytes);
  if (isEngineLog(lines)) return null;
  return readCountedLog(lines, path, zone) ?? readLineLog(lines, path, zone);
}

/** A moment to the microsecond and the number of a thread, as the engine of a log-structured store writes them. */
const ENGINE = /^\d{4}\/\d\d\/\d\d-\d\d:\d\d:\d\d\.\d{6} [0-9a-f]{1,16} \S/;
const MOSTLY = 0.8;

/** Whether lines are what a storage engine notes of its own work, as it does in `LOG` and `LOG.old`. */
function isEngineLog(lines: readonly TextLine[]): boolean {
  const filled = lines.filter(({ text }) => text.trim() !== '');
  const own = filled.filter(({ text }) => ENGINE.test(text));
  return own.length > 0 && own.length >= filled.length * MOSTLY;
}
