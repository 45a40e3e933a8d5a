import loadQpdf from '@neslinesli93/qpdf-wasm';
import qpdfUrl from '@neslinesli93/qpdf-wasm/dist/qpdf.wasm?url';
import {
  archivalCopy,
  PictureError,
  printerWith,
  type PageJob,
  type Printer,
  type SetPages
} from '$core/produce/pdf';

/** What a worker that sets pages answers. */
export type PrintAnswer =
  { type: 'pages'; pages: SetPages } | { type: 'failed'; text: string; picture: string | null };

const FONT_URLS = import.meta.glob<string>('/fonts/*/*.ttf', {
  query: '?url',
  import: 'default',
  eager: true
});

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
  const url = FONT_URLS[`/${file}`];
  if (url === undefined) throw new Error(`The font ${file} is not part of this build.`);
  const answer = await fetch(url);
  if (!answer.ok) throw new Error(`The font ${file} could not be loaded (${answer.status}).`);
  return new Uint8Array(await answer.arrayBuffer());
}

/** Sets pages in a worker of its own, which is used again after small jobs and takes its memory with it after large ones. */
export function pagePrinter(signal: AbortSignal): Printer {
  return printerWith({ set: (job) => setPages(job, signal), openFont, protect });
}

async function setPages(job: PageJob, signal: AbortSignal): Promise<SetPages> {
  const answer = await asked(job, signal);
  if (answer.type === 'pages') {
    const { pages } = answer;
    return job.isArchival ? { ...pages, pdf: await archivalCopy(pages.pdf) } : pages;
  }
  if (answer.picture !== null) throw new PictureError(answer.picture);
  throw new Error(`The pages could not be laid out: ${answer.text.slice(0, 500)}`);
}

/** Bytes of a job past which its worker is not kept: the engine's memory never shrinks. */
const MOST_KEPT_BYTES = 24 << 20;

/** A worker that sets pages, and how many jobs lie before it. */
interface Engine {
  worker: Worker;
  waiting: number;
}

/** A worker whose engine is ready for the next small job. */
let kept: Engine | null = null;
let lastJob = 0;

function takeEngine(): Engine {
  const engine = kept ?? {
    worker: new Worker(new URL('./print.worker.ts', import.meta.url), { type: 'module' }),
    waiting: 0
  };
  kept = null;
  return engine;
}

function giveBack(engine: Engine, isKept: boolean): void {
  if (isKept && kept === null) kept = engine;
  else engine.worker.terminate();
}

function isSmall({ files }: PageJob): boolean {
  let size = 0;
  for (const bytes of files.values()) size += bytes.length;
  return size < MOST_KEPT_BYTES;
}

function asked(job: PageJob, signal: AbortSignal): Promise<PrintAnswer> {
  return new Promise((resolve, reject) => {
    signal.throwIfAborted();
    const engine = takeEngine();
    const { worker } = engine;
    const id = ++lastJob;
    const end = (isKept: boolean): void => {
      signal.removeEventListener('abort', stop);
      worker.removeEventListener('message', hear);
      worker.removeEventListener('error', fail);
      giveBack(engine, isKept);
    };
    const stop = (): void => {
      // To let one job run to its end takes less than to begin a worker.
      end(isSmall(job) && engine.waiting === 1);
      reject(signal.reason as Error);
    };
    const hear = ({ data }: MessageEvent<{ id: number; answer: PrintAnswer }>): void => {
      if (data.id !== id) return;
      end(data.answer.type === 'pages' && isSmall(job));
      resolve(data.answer);
    };
    const fail = ({ message }: ErrorEvent): void => {
      end(false);
      reject(new Error(message || 'The worker that sets pages died.'));
    };
    signal.addEventListener('abort', stop);
    worker.addEventListener('message', hear);
    worker.addEventListener('error', fail);
    engine.waiting++;
    worker.addEventListener('message', function count({ data }: MessageEvent<{ id: number }>) {
      if (data.id !== id) return;
      engine.waiting--;
      worker.removeEventListener('message', count);
    });
    worker.postMessage({ id, job });
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
  // Named, for a password may begin with a dash.
  const locks = [`--user-password=${password}`, `--owner-password=${owner}`, '--bits=256'];
  const code = qpdf.callMain(['/in.pdf', '--encrypt', ...locks, '--', '/out.pdf']);
  if (code !== 0) throw new Error(`The document could not be locked (${code}).`);
  return qpdf.FS.readFile('/out.pdf');
}
