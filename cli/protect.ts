import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { randomBytes } from 'node:crypto';

interface Qpdf {
  FS: { writeFile(path: string, data: Uint8Array): void; readFile(path: string): Uint8Array };
  callMain(args: string[]): number;
}

/** Locks a document with a password: AES with 256 bits (ISO 32000-2, 7.6). */
export async function protect(pdf: Uint8Array, password: string): Promise<Uint8Array> {
  const require = createRequire(import.meta.url);
  const entry = require.resolve('@neslinesli93/qpdf-wasm');
  const { default: load } = (await import('@neslinesli93/qpdf-wasm')) as unknown as {
    default: (options: object) => Promise<Qpdf>;
  };
  const qpdf = await load({
    locateFile: () => join(dirname(entry), 'qpdf.wasm'),
    noInitialRun: true
  });
  qpdf.FS.writeFile('/in.pdf', pdf);
  // The owner's password is thrown away: whoever opens it may do what the reader lets them.
  const owner = randomBytes(24).toString('base64url');
  // Named, for a password may begin with a dash.
  const locks = [`--user-password=${password}`, `--owner-password=${owner}`, '--bits=256'];
  const code = qpdf.callMain(['/in.pdf', '--encrypt', ...locks, '--', '/out.pdf']);
  if (code !== 0) throw new Error(`The document could not be locked (qpdf ended with ${code}).`);
  return qpdf.FS.readFile('/out.pdf');
}
