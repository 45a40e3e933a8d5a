// Files by their names: words as they stand, or a pattern with * and ?.

/**
 * Whether paths match what was typed. Words match anywhere in a path. A
 * pattern matches a whole name, or with a / in it the end of a path: * stands
 * for any signs, ? for one.
 */
export function pathMatcher(query: string): (path: string) => boolean {
  const wanted = query.trim().toLowerCase();
  if (!/[*?]/.test(wanted)) return (path) => path.toLowerCase().includes(wanted);
  const parts = wanted.split(/([*?])/).map((part) => {
    if (part === '*') return wanted.includes('/') ? '.*' : '[^/]*';
    return part === '?' ? '[^/]' : part.replace(/[.+^${}()|[\]\\]/g, '\\$&');
  });
  // Several stars in a row would be tried in every way.
  const source = parts
    .filter((part) => part !== '')
    .join('')
    .replace(/((\.|\[\^\/\])\*)+/g, '$1');
  const pattern = new RegExp(`(^|/)${source}$`, 's');
  return (path) => pattern.test(path.toLowerCase());
}
