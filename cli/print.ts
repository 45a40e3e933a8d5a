import { readFileSync } from 'node:fs';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import type { NodeCompiler as Compiler } from '@myriaddreamin/typst-ts-node-compiler';
import {
  PictureError,
  printerWith,
  type PageFacts,
  type PageJob,
  type Printer,
  type SetPages
} from '../core/produce/pdf';
import { protect } from './protect';

const ROOT = '/record';

/** Sets pages by the engine that is compiled for this machine. */
export function nativePrinter(): Printer {
  return printerWith({
    set: setAndCollect,
    openFont: (file) => Promise.resolve(new Uint8Array(readFileSync(shipped(file)))),
    protect
  });
}

/** Where a file of the repository lies: this file and its bundle are both in a folder of the root. */
function shipped(file: string): URL {
  return new URL(`../${file}`, import.meta.url);
}

/**
 * The engine's memory is none that the collector sees: without being asked it
 * would leave that of one volume beside that of the next.
 */
async function collect(): Promise<void> {
  setFlagsFromString('--expose-gc');
  const gc = runInNewContext('gc') as () => void;
  // What a call leaves on the stack is let go with the next turn.
  await new Promise((resolve) => setImmediate(resolve));
  gc();
  await new Promise((resolve) => setImmediate(resolve));
}

async function setAndCollect(job: PageJob): Promise<SetPages> {
  const pages = await setPages(job);
  await collect();
  return pages;
}

async function setPages({ template, files, fonts, isArchival, made }: PageJob): Promise<SetPages> {
  const { NodeCompiler } = await import('@myriaddreamin/typst-ts-node-compiler');
  const compiler = NodeCompiler.create({
    workspace: ROOT,
    fontArgs: [
      { fontBlobs: fonts.map((font) => Buffer.from(font.buffer, font.byteOffset, font.byteLength)) }
    ]
  });
  for (const [path, bytes] of files)
    compiler.mapShadow(ROOT + path, Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength));
  const compiled = compiler.compile({ mainFileContent: template });
  const document = compiled.result;
  if (!document) throw problemOf(compiler, compiled.takeError(), files);
  const [facts] = compiler.query(document, { selector: '<facts>', field: 'value' }) as [PageFacts];
  const pdf = compiler.pdf(document, {
    creationTimestamp: Math.floor(made / 1000),
    ...(isArchival ? { pdfStandard: 'a-3b' } : {})
  });
  // What is kept for the next document would fill the memory volume by volume.
  compiler.resetShadow();
  compiler.evictCache(0);
  return { pdf: new Uint8Array(pdf), ...facts };
}

/** An error of the engine; one that names a picture is that picture's. */
function problemOf(
  compiler: Compiler,
  error: ReturnType<ReturnType<Compiler['compile']>['takeError']>,
  files: ReadonlyMap<string, Uint8Array>
): Error {
  const told = JSON.stringify(error ? compiler.fetchDiagnostics(error) : []);
  const isPicture = /image|decode|jpeg|png|gif|webp/i.test(told);
  const path = isPicture ? brokenOf(files, compiler) : null;
  return path === null
    ? new Error(`The pages could not be laid out: ${told.slice(0, 500)}`)
    : new PictureError(path);
}

/** The first picture that cannot be set by itself. */
function brokenOf(files: ReadonlyMap<string, Uint8Array>, compiler: Compiler): string | null {
  for (const path of files.keys()) {
    if (!path.startsWith('/pictures/')) continue;
    const alone = `#image(${JSON.stringify(path)}, width: 10mm)`;
    if (!compiler.compile({ mainFileContent: alone }).result) return path;
  }
  return null;
}
