/** Adds all items to a list. Spreading them into `push` would overflow the stack from some ten thousand on. */
export function append<T>(into: T[], items: Iterable<T>): void {
  for (const item of items) into.push(item);
}
