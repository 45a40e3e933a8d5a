import avifUrl from '@jsquash/avif/codec/dec/avif_dec.wasm?url';
import jpegUrl from '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm?url';
import jpegEncoderUrl from '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm?url';
import webpUrl from '@jsquash/webp/codec/dec/webp_dec.wasm?url';

async function compiled(url: string): Promise<WebAssembly.Module> {
  const answer = await fetch(url);
  if (!answer.ok) throw new Error(`A decoder of pictures could not be loaded (${answer.status}).`);
  return WebAssembly.compile(await answer.arrayBuffer());
}

/** Decoders of pictures and the encoder, as they ship with the application. */
export const pictureModules = {
  webp: (): Promise<WebAssembly.Module> => compiled(webpUrl),
  avif: (): Promise<WebAssembly.Module> => compiled(avifUrl),
  jpeg: (): Promise<WebAssembly.Module> => compiled(jpegUrl),
  jpegEncoder: (): Promise<WebAssembly.Module> => compiled(jpegEncoderUrl)
};
