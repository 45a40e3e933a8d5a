/**
 * Folders import one way too, not only files: tests, which look at everything, are left out.
 * @type {import('dependency-cruiser').IConfiguration}
 */
// eslint-disable-next-line @typescript-eslint/no-require-imports -- the tool reads CommonJS
const { options } = require('./.dependency-cruiser.cjs');

module.exports = {
  forbidden: [
    {
      name: 'no-circles-of-folders',
      severity: 'error',
      scope: 'folder',
      from: {},
      to: { circular: true }
    }
  ],
  options: {
    ...options,
    exclude: {
      path: `${options.exclude.path}|\\.test\\.ts$|/tests/|^measure/`
    }
  }
};
