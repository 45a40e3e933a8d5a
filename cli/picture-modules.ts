import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';

const require = createRequire(import.meta.url);

function compiled(file: string): Promise<WebAssembly.Module> {
  return WebAssembly.compile(readFileSync(require.resolve(file)));
}

/** Decoders of pictures and the encoder, compiled from where they are installed. */
export const pictureModules = {
  webp: (): Promise<WebAssembly.Module> => compiled('@jsquash/webp/codec/dec/webp_dec.wasm'),
  avif: (): Promise<WebAssembly.Module> => compiled('@jsquash/avif/codec/dec/avif_dec.wasm'),
  jpeg: (): Promise<WebAssembly.Module> => compiled('@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm'),
  jpegEncoder: (): Promise<WebAssembly.Module> =>
    compiled('@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm')
};
