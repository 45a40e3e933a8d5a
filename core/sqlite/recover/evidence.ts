/**
 * What SQLite could not have written, as evidence in bits: no sum with it is
 * believed. A number, for evidence is worked out millions of times.
 */
export const IMPOSSIBLE = -Infinity;
