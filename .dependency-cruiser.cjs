/**
 * Which part may import which: docs/architecture.md draws it. Imports point one way.
 * @type {import('dependency-cruiser').IConfiguration}
 */
const layers = {
  bytes: [],
  records: ['bytes'],
  plist: ['bytes'],
  sqlite: ['bytes'],
  packages: ['bytes', 'records', 'plist', 'sqlite'],
  card: ['bytes', 'records'],
  logs: ['bytes', 'records'],
  medium: ['bytes', 'sqlite'],
  stores: ['bytes', 'records', 'plist', 'sqlite'],
  threads: ['bytes', 'records', 'stores'],
  lines: ['bytes', 'records', 'threads'],
  people: ['records'],
  shown: [],
  custody: ['bytes'],
  exhibits: [],
  plan: [],
  copying: ['bytes'],
  produce: ['bytes', 'records', 'shown', 'custody', 'threads'],
  rebuild: ['bytes', 'sqlite', 'produce'],
  pass: ['bytes', 'records', 'sqlite', 'packages', 'card', 'logs', 'medium', 'stores', 'threads'],
  case: [
    'records',
    'lines',
    'people',
    'threads',
    'stores',
    'pass',
    'produce',
    'custody',
    'exhibits',
    'plan',
    'copying'
  ]
};

const tests = '\\.test\\.ts$|^core/tests/';

const oneWay = Object.entries(layers).map(([part, allowed]) => ({
  name: `core-${part}-imports-only-${allowed.join('-') || 'nothing'}`,
  severity: 'error',
  from: { path: `^core/${part}/`, pathNot: tests },
  to: { path: '^core/', pathNot: `^core/(${[part, ...allowed].join('|')})/` }
}));

module.exports = {
  forbidden: [
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { pathNot: 'node_modules' } }
    },
    {
      name: 'core-stands-alone',
      severity: 'error',
      from: { path: '^core/', pathNot: tests },
      to: { path: '^(src|cli|demo|measure|bench)/' }
    },
    {
      name: 'the-bench-knows-no-demo',
      severity: 'error',
      from: { path: '^bench/', pathNot: tests },
      to: { path: '^(demo|src|cli|measure)/' }
    },
    {
      name: 'no-node-in-core',
      severity: 'error',
      from: { path: '^core/', pathNot: tests },
      to: { dependencyTypes: ['core'] }
    },
    ...oneWay
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    webpackConfig: { fileName: '.dependency-cruiser.resolve.cjs' },
    exclude: { path: '\\.svelte-kit|build/' }
  }
};
