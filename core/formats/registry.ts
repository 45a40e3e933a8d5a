/** The formats of packages, in the order in which first bytes are tried: those with the surest marks first. */
import type { ByteSource } from '../host';
import type { PackageFormat } from './types';
import { AB } from './ab';
import { GZIP } from './gzip';
import { SEALED } from './sealed';
import { MEDIUM } from './medium';
import { TAR } from './tar';
import { ZIP } from './zip';
import { ZSTD } from './zstd';

export const FORMATS: readonly PackageFormat[] = [ZIP, GZIP, ZSTD, AB, SEALED, TAR, MEDIUM];

/** The format of which the beginning is lost; null for what is none. */
export function formatWithin(source: ByteSource): PackageFormat | null {
  return FORMATS.find((format) => format.lies?.(source)) ?? null;
}

/** The format that a file begins like; null for what is no package. */
export function formatOf(head: Uint8Array): PackageFormat | null {
  return FORMATS.find((format) => format.begins(head)) ?? null;
}
