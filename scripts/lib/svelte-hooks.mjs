// Loads components and modules with runes for unit tests, as the browser gets them: without the application's build.
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { compile, compileModule } from 'svelte/compiler';
import ts from 'typescript';

function withoutTypes(source) {
  const { ESNext: module } = ts.ModuleKind;
  const { ES2022: target } = ts.ScriptTarget;
  const compilerOptions = { module, target, verbatimModuleSyntax: true };
  return ts.transpileModule(source, { compilerOptions }).outputText;
}

/** A hook of Node's loader (`module.register`). */
export async function load(url, context, next) {
  const path = url.split('?')[0];
  if (!path.startsWith('file:') || !/\.svelte(\.ts|\.js)?$/.test(path)) return next(url, context);
  const filename = fileURLToPath(path);
  const source = readFileSync(filename, 'utf8');
  const options = { filename, generate: 'client', dev: false };
  const { js } = path.endsWith('.svelte')
    ? compile(source, { ...options, css: 'external' })
    : compileModule(path.endsWith('.ts') ? withoutTypes(source) : source, options);
  return { format: 'module', source: js.code, shortCircuit: true };
}
