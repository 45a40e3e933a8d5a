import type { Reason } from '$core/produce';

/** The reason code that was used last: the next redaction begins with it. */
class Codes {
  last = $state('');
}

export const codes = new Codes();

/** Codes of a case, those that have a reason first. */
export function codesOf(reasons: readonly Reason[], used: readonly string[]): string[] {
  return [...new Set([...reasons.map(({ code }) => code), ...used])];
}
