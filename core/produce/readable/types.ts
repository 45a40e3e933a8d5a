/** A copy of a file in a format that every program opens. */
export interface Readable {
  bytes: Uint8Array;
  mime: 'image/jpeg' | 'image/png' | 'audio/wav';
  ending: string;
}

/** A file that no copy could be made of; the message follows "because". */
export class UnreadableError extends Error {
  override readonly name = 'UnreadableError';
}

/** A decoded picture: four bytes a pixel, red, green, blue and alpha. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8ClampedArray;
}
