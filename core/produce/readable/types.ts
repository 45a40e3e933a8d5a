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

/** Gives the compiled modules of decoders, wherever they lie. */
export interface PictureModules {
  webp: () => Promise<WebAssembly.Module>;
  avif: () => Promise<WebAssembly.Module>;
  jpeg: () => Promise<WebAssembly.Module>;
}
