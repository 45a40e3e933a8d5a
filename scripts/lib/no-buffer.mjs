/**
 * The encoder of JPEG gives a buffer of Node wherever modules are, also in a
 * browser, which has none: plain bytes serve both. Fails the build when the
 * encoder changes.
 */
export function noBuffer() {
  const FOUND = 'return Buffer.from(byteout)';
  return {
    name: 'no-buffer',
    enforce: 'pre',
    transform(code, id) {
      if (!/jpeg-js\/lib\/encoder\.js/.test(id)) return null;
      if (!code.includes(FOUND)) this.error('the encoder of JPEG changed');
      return code.replace(FOUND, 'return Uint8Array.from(byteout)');
    }
  };
}
