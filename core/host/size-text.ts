/** A size as people write it: bytes, kB, MB or GB. */
export function sizeText(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  if (bytes < 1e6) return `${(bytes / 1e3).toFixed(1)} kB`;
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

/** A number with its digits in groups of three. */
export function grouped(n: number): string {
  return n.toLocaleString('en');
}
