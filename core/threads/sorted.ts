/**
 * A list of numbers in their order. Row numbers of large tables come in order
 * but for a tail, which alone is sorted.
 */
export function sorted(numbers: Float64Array): Float64Array {
  let rising = 1;
  while (rising < numbers.length && numbers[rising]! >= numbers[rising - 1]!) rising++;
  if (rising >= numbers.length) return numbers;
  return merged(numbers.subarray(0, rising), numbers.slice(rising).sort());
}

/** Two sorted lists as one. */
export function merged(some: Float64Array, others: Float64Array): Float64Array {
  const out = new Float64Array(some.length + others.length);
  let a = 0;
  let b = 0;
  for (let i = 0; i < out.length; i++) {
    const isFirst = b >= others.length || (a < some.length && some[a]! <= others[b]!);
    out[i] = isFirst ? some[a++]! : others[b++]!;
  }
  return out;
}
