/** Gives the compiled modules of decoders and of the encoder, wherever they lie. */
export interface PictureModules {
  webp: () => Promise<WebAssembly.Module>;
  avif: () => Promise<WebAssembly.Module>;
  jpeg: () => Promise<WebAssembly.Module>;
  jpegEncoder: () => Promise<WebAssembly.Module>;
}

type Init = (module: WebAssembly.Module, options: object) => Promise<void>;

/** What decoders say of damaged files is told by what they give; the types leave the second argument out. */
export function quiet(init: unknown): (module: WebAssembly.Module) => Promise<void> {
  const options = { print: () => undefined, printErr: () => undefined };
  return (module) => (init as Init)(module, options);
}

/** Outside of browsers nothing holds pixels by that name. */
export function holdPixels(): void {
  globalThis.ImageData ??= PlainImage as unknown as typeof ImageData;
}

class PlainImage {
  constructor(
    readonly data: Uint8ClampedArray,
    readonly width: number,
    readonly height: number
  ) {}
}
