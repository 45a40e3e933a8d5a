/** Every text in a value, names of its fields and numbers included. */
export function* textsWithin(value: unknown): Generator<string> {
  if (typeof value === 'string') yield value;
  else if (typeof value === 'number') yield String(value);
  else if (typeof value === 'object' && value !== null)
    for (const [key, item] of Object.entries(value)) {
      if (!Array.isArray(value)) yield key;
      yield* textsWithin(item);
    }
}
