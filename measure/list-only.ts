import { drain, listSource, plainFile } from '../core/formats';
import { openInputs } from '../cli/inputs';
import { MemoryScratch } from '../core/host';

/** Recognises and lists one source, and nothing more. */
const { inputs } = openInputs(process.argv.slice(2));
const [input] = inputs;
const begun = performance.now();
const files = input!.files.map((file) => plainFile(file.name, file));
const { tree, files: listed } = drain(
  listSource(input!.name, files, { keys: [], scratch: () => new MemoryScratch() })
);
console.log(tree.packages[0]?.kind, listed.length);
console.error(`${Math.round(performance.now() - begun)} ms`);
