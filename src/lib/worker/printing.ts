import loadQpdf from '@neslinesli93/qpdf-wasm';
import qpdfUrl from '@neslinesli93/qpdf-wasm/dist/qpdf.wasm?url';
import {
  PictureError,
  printerWith,
  type PageJob,
  type Printer,
  type SetPages
} from '$core/produce/pdf';

/** What a worker that sets pages answers. */
export type PrintAnswer =
  { type: 'pages'; pages: SetPages } | { type: 'failed'; text: string; picture: string | null };

const FONT_URLS = import.meta.glob<string>(
  [
    '/node_modules/@expo-google-fonts/*/400Regular/*.ttf',
    '/node_modules/@expo-google-fonts/source-serif-4/600SemiBold/*.ttf',
    '/node_modules/@expo-google-fonts/noto-sans/600SemiBold/*.ttf'
  ],
  { query: '?url', import: 'default', eager: true }
);

const fonts = new Map<string, Promise<Uint8Array>>();

function openFont(file: string): Promise<Uint8Array> {
  let known = fonts.get(file);
  if (!known) {
    known = fetchFont(file);
    fonts.set(file, known);
    // One that did not come is asked for again the next time.
    known.catch(() => fonts.delete(file));
  }
  return known;
}

async function fetchFont(file: string): Promise<Uint8Array> {
  const url = FONT_URLS[`/node_modules/${file}`];
  if (url === undefined) throw new Error(`The font ${file} is not part of this build.`);
  const answer = await fetch(url);
  if (!answer.ok) throw new Error(`The font ${file} could not be loaded (${answer.status}).`);
  return new Uint8Array(await answer.arrayBuffer());
}

/** Sets pages in a worker of its own, which takes its memory with it. */
export function pagePrinter(signal: AbortSignal): Printer {
  return printerWith({ set: (job) => setPages(job, signal), openFont, protect });
}

async function setPages(job: PageJob, signal: AbortSignal): Promise<SetPages> {
  if (job.isArchival)
    throw new Error('PDF/A is made by the command only: the engine in the browser cannot.');
  const answer = await asked(job, signal);
  if (answer.type === 'pages') return answer.pages;
  if (answer.picture !== null) throw new PictureError(answer.picture);
  throw new Error(`The pages could not be set: ${answer.text.slice(0, 500)}`);
}

function asked(job: PageJob, signal: AbortSignal): Promise<PrintAnswer> {
  return new Promise((resolve, reject) => {
    signal.throwIfAborted();
    const worker = new Worker(new URL('./print.worker.ts', import.meta.url), { type: 'module' });
    const end = (): void => {
      worker.terminate();
      signal.removeEventListener('abort', stop);
    };
    const stop = (): void => {
      end();
      reject(signal.reason as Error);
    };
    signal.addEventListener('abort', stop);
    worker.onmessage = ({ data }: MessageEvent<PrintAnswer>) => {
      end();
      resolve(data);
    };
    worker.onerror = ({ message }) => {
      end();
      reject(new Error(message || 'The worker that sets pages died.'));
    };
    worker.postMessage(job);
  });
}

interface Qpdf {
  FS: { writeFile(path: string, data: Uint8Array): void; readFile(path: string): Uint8Array };
  callMain(args: string[]): number;
}

/** Locks a document with a password: AES with 256 bits. */
async function protect(pdf: Uint8Array, password: string): Promise<Uint8Array> {
  const load = loadQpdf as unknown as (options: object) => Promise<Qpdf>;
  const qpdf = await load({ locateFile: () => qpdfUrl, noInitialRun: true });
  qpdf.FS.writeFile('/in.pdf', pdf);
  // The owner's password is thrown away: whoever opens it may do what the reader lets them.
  const owner = crypto.randomUUID();
  const code = qpdf.callMain(['/in.pdf', '--encrypt', password, owner, '256', '--', '/out.pdf']);
  if (code !== 0) throw new Error(`The document could not be locked (${code}).`);
  return qpdf.FS.readFile('/out.pdf');
}
