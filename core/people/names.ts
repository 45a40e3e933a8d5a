/** A name's words, without case and diacritics. */
export function nameWords(name: string): string[] {
  return name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== '');
}

/** Whether a name tells one person from most others: two words, neither of them an initial. */
export function isFullName(words: readonly string[]): boolean {
  return words.filter((word) => word.length > 1 && /\p{L}/u.test(word)).length >= 2;
}

/** Whether two names can be one person's: each word of the shorter is a word of the longer, or begins one. */
export function namesAgree(a: string, b: string): boolean {
  const [short, long] = [nameWords(a), nameWords(b)].sort((x, y) => x.length - y.length);
  const left = [...long!];
  return short!.every((word) => {
    const at = left.findIndex((other) => other.startsWith(word) || word.startsWith(other));
    if (at < 0) return false;
    left.splice(at, 1);
    return true;
  });
}

/** The words of a name in their order by letters, to find it by. */
export function nameKey(words: readonly string[]): string {
  return [...words].sort().join(' ');
}
