import init, {
  TypstCompilerBuilder,
  type TypstCompiler
} from '@myriaddreamin/typst-ts-web-compiler';
import wasmUrl from '@myriaddreamin/typst-ts-web-compiler/pkg/typst_ts_web_compiler_bg.wasm?url';
import type { PageJob, SetPages } from '$core/produce/pdf';
import type { PrintAnswer } from './printing';

/** Diagnostics as objects, with texts only. */
const SHORT = 2;
const MAIN = '/main.typ';

async function engineWith(fonts: readonly Uint8Array[]): Promise<TypstCompiler> {
  await init({ module_or_path: wasmUrl });
  const builder = new TypstCompilerBuilder();
  builder.set_dummy_access_model();
  for (const font of fonts) await builder.add_raw_font(font);
  return builder.build();
}

function problemOf(told: unknown): string | null {
  const { result, hasError } = (told ?? {}) as { result?: Uint8Array; hasError?: boolean };
  return result && !hasError ? null : JSON.stringify(told).slice(0, 2000);
}

async function pagesOf({ template, files, fonts }: PageJob): Promise<PrintAnswer> {
  const engine = await engineWith(fonts);
  engine.add_source(MAIN, template);
  for (const [path, bytes] of files) engine.map_shadow(path, bytes);
  const told: unknown = engine.compile(MAIN, undefined, 'pdf', SHORT);
  const problem = problemOf(told);
  if (problem !== null) return { type: 'failed', text: problem, picture: brokenOf(engine, files) };
  const { result } = told as { result: Uint8Array };
  const found = JSON.parse(engine.query(MAIN, undefined, '<places>', 'value')) as [
    SetPages['places']
  ];
  const sections = JSON.parse(engine.query(MAIN, undefined, '<sections>', 'value')) as [
    SetPages['sections']
  ];
  const last = JSON.parse(engine.query(MAIN, undefined, '<pages>', 'value')) as [number];
  return {
    type: 'pages',
    pages: { pdf: result, pages: last[0], places: found[0] ?? [], sections: sections[0] ?? [] }
  };
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

self.onmessage = async ({ data }: MessageEvent<PageJob>) => {
  let answer: PrintAnswer;
  try {
    answer = await pagesOf(data);
  } catch (error) {
    answer = {
      type: 'failed',
      text: error instanceof Error ? error.message : String(error),
      picture: null
    };
  }
  const transfer = answer.type === 'pages' ? [answer.pages.pdf.buffer as ArrayBuffer] : [];
  self.postMessage(answer, { transfer });
};
