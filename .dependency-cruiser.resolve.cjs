/** Where the short names of folders lead: without them no arrow of the application would be seen. */
// eslint-disable-next-line @typescript-eslint/no-require-imports -- the tool reads CommonJS
const { join } = require('node:path');

module.exports = {
  resolve: {
    alias: {
      $lib: join(__dirname, 'src/lib'),
      $core: join(__dirname, 'core'),
      $bench: join(__dirname, 'bench'),
      $demo: join(__dirname, 'demo')
    },
    extensions: ['.ts', '.mjs', '.js', '.svelte']
  }
};
