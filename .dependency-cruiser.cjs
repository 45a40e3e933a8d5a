/**
 * Which part may import which: docs/architecture.md draws it. Imports point one way.
 * @type {import('dependency-cruiser').IConfiguration}
 */
const layers = {
  host: [],
  records: ['host'],
  sqlite: ['host'],
  'formats/plist': ['host'],
  'formats/sim': ['host', 'records'],
  'formats/textlog': ['host', 'records'],
  'formats/rawimage': ['host', 'sqlite'],
  formats: ['host', 'records', 'sqlite'],
  profiles: ['host', 'records', 'sqlite', 'formats/plist'],
  messages: ['host', 'records', 'profiles'],
  shown: [],
  custody: ['host'],
  exhibits: [],
  plan: [],
  acquire: ['host'],
  examine: ['host', 'records', 'sqlite', 'formats', 'profiles', 'messages'],
  produce: ['host', 'records', 'shown', 'custody', 'formats', 'messages'],
  rebuild: ['host', 'sqlite', 'produce'],
  'case/lines': ['host', 'records', 'messages'],
  'case/people': ['records'],
  case: [
    'records',
    'messages',
    'profiles',
    'examine',
    'produce',
    'custody',
    'exhibits',
    'plan',
    'acquire'
  ]
};

const tests = '\\.test\\.ts$|^core/tests/';

/** Parts that lie in a part: what they may import is their own affair. */
const inside = (part) => Object.keys(layers).filter((other) => other.startsWith(`${part}/`));

const oneWay = Object.entries(layers).map(([part, allowed]) => ({
  name: `core-${part.replace('/', '-')}-imports-only-${allowed.join('-').replaceAll('/', '-') || 'nothing'}`,
  severity: 'error',
  from: {
    path: `^core/${part}/`,
    pathNot: [tests, ...inside(part).map((own) => `^core/${own}/`)].join('|')
  },
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
    {
      name: 'the-service-knows-no-page',
      severity: 'error',
      from: { path: '^src/lib/(service|storage)/', pathNot: tests },
      to: { path: '^src/(routes|lib/(stations|frame|ui|state))/' }
    },
    {
      name: 'stations-know-no-other',
      severity: 'error',
      from: { path: '^src/lib/stations/([^/]+)/' },
      to: { path: '^src/lib/stations/', pathNot: '^src/lib/stations/$1/' }
    },
    {
      name: 'what-stations-share-knows-none',
      severity: 'error',
      from: { path: '^src/lib/(ui|state|frame)/' },
      to: { path: '^src/(routes|lib/stations)/' }
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
