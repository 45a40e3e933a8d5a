/**
 * The page engine's glue makes functions from texts, which the policy of this
 * application forbids. Only the global object is ever asked for that way, so
 * it is answered without. Fails the build when the glue changes.
 */
export function noEval() {
  return {
    name: 'no-eval',
    enforce: 'pre',
    transform(code, id) {
      if (!id.includes('typst_ts_web_compiler.mjs')) return null;
      let found = 0;
      const answered = (args) => {
        found++;
        return `__answered(${args})`;
      };
      const changed = code
        .replace(/new Function\(getStringFromWasm0\(arg0, arg1\)\)/, () =>
          answered('getStringFromWasm0(arg0, arg1)')
        )
        .replace(
          /new Function\(getStringFromWasm0\(arg0, arg1\), getStringFromWasm0\(arg2, arg3\)\)/,
          () => answered('getStringFromWasm0(arg0, arg1), getStringFromWasm0(arg2, arg3)')
        );
      if (found !== 2)
        this.error(`the glue of the page engine changed: ${found} of 2 places found`);
      return `${changed}\nconst __answered = (source) =>\n  /return this/.test(source)\n    ? () => globalThis\n    : () => {\n        throw new Error('the page engine called a function of its own making');\n      };\n`;
    }
  };
}
