/** The part of the picture decoder that is used. */
declare module 'libheif-js/wasm-bundle' {
  interface HeifImage {
    get_width(): number;
    get_height(): number;
    display(
      target: { width: number; height: number; data: Uint8ClampedArray },
      done: (shown: object | null) => void
    ): void;
    free(): void;
  }
  const heif: { HeifDecoder: new () => { decode(bytes: Uint8Array): HeifImage[] } };
  export default heif;
}
