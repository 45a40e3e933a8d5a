import init, {
  TypstCompilerBuilder,
  type TypstCompiler
} from '@myriaddreamin/typst-ts-web-compiler';
import wasmUrl from '@myriaddreamin/typst-ts-web-compiler/pkg/typst_ts_web_compiler_bg.wasm?url';
import type { PageFacts, PageJob } from '$core/produce/pdf';
import type { PrintAnswer } from './printing';

/** Diagnostics as objects, with texts only. */
const SHORT = 2;
const MAIN = '/main.typ';

/** The engine of the last job, which the next one uses again where it needs the same fonts. */
let kept: { key: string; engine: TypstCompiler } | null = null;

async function engineWith({ fonts, fontKey }: PageJob): Promise<TypstCompiler> {
  if (kept?.key === fontKey) {
    kept.engine.reset_shadow();
    return kept.engine;
  }
  kept?.engine.free();
  kept = null;
  await init({ module_or_path: wasmUrl });
  const builder = new TypstCompilerBuilder();
  builder.set_dummy_access_model();
  for (const font of fonts) await builder.add_raw_font(font);
  const engine = await builder.build();
  kept = { key: fontKey, engine };
  return engine;
}

function problemOf(told: unknown): string | null {
  const { result, hasError } = (told ?? {}) as { result?: Uint8Array; hasError?: boolean };
  return result && !hasError ? null : JSON.stringify(told).slice(0, 2000);
}

async function pagesOf(job: PageJob): Promise<PrintAnswer> {
  const { template, files } = job;
  const engine = await engineWith(job);
  engine.add_source(MAIN, template);
  for (const [path, bytes] of files) engine.map_shadow(path, bytes);
  const told: unknown = engine.compile(MAIN, undefined, 'pdf', SHORT);
  const problem = problemOf(told);
  if (problem !== null) return { type: 'failed', text: problem, picture: brokenOf(engine, files) };
  const { result } = told as { result: Uint8Array };
  const [facts] = JSON.parse(engine.query(MAIN, undefined, '<facts>', 'value')) as [PageFacts];
  return { type: 'pages', pages: { pdf: result, ...facts } };
}

/** The first picture that cannot be set by itself. */
function brokenOf(engine: TypstCompiler, files: PageJob['files']): string | null {
  for (const path of files.keys()) {
    if (!path.startsWith('/pictures/')) continue;
    engine.add_source('/one.typ', `#image(${JSON.stringify(path)}, width: 10mm)`);
    if (problemOf(engine.compile('/one.typ', undefined, 'pdf', SHORT)) !== null) return path;
  }
  return null;
}

/** Jobs are done one after the other. */
let last: Promise<void> = Promise.resolve();

self.onmessage = ({ data }: MessageEvent<{ id: number; job: PageJob }>) => {
  last = last.then(() => answer(data.id, data.job));
};

async function answer(id: number, job: PageJob): Promise<void> {
  let told: PrintAnswer;
  try {
    told = await pagesOf(job);
  } catch (error) {
    told = {
      type: 'failed',
      text: error instanceof Error ? error.message : String(error),
      picture: null
    };
  }
  const transfer = told.type === 'pages' ? [told.pages.pdf.buffer as ArrayBuffer] : [];
  self.postMessage({ id, answer: told }, { transfer });
}
