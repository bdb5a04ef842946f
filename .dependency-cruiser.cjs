/** Each layer knows only those under it (docs/architecture.md). Tests, which are left out, and the two entry points may reach anywhere. */
const above = (layer, others) => ({
  name: `${layer}-knows-only-what-is-under-it`,
  severity: 'error',
  from: { path: `^${layer}/`, pathNot: '^server/programs/' },
  to: { path: `^(${others.join('|')})/` },
});

/** The rooms of the core: each knows only those before it in the list, and those named beside it not even then. */
const rooms = [
  'value',
  'ask',
  'dataset',
  'plan',
  'sql',
  'words',
  'change',
  'dashboard',
  'lineage',
  'definitions',
  'results',
];
const apart = {
  words: ['sql'],
  change: ['sql'],
  dashboard: ['sql'],
  lineage: ['sql'],
  definitions: ['sql'],
  results: ['sql'],
};
const roomsUnder = rooms.map((room, at) =>
  above(
    `core/${room}`,
    [...rooms.slice(at + 1), ...(apart[room] ?? [])].map((each) => `core/${each}`),
  ),
);

module.exports = {
  forbidden: [
    ...roomsUnder,
    {
      name: 'no-circle-between-folders',
      severity: 'error',
      scope: 'folder',
      from: { path: '^(core|engine|sources|app)/' },
      to: { circular: true },
    },
    {
      name: 'what-ships-knows-no-test',
      severity: 'error',
      from: { path: '^(core|engine|sources|server|app|demo|stand-ins)/' },
      to: { path: '^testing/' },
    },
    above('core', ['engine', 'sources', 'server', 'app', 'demo', 'stand-ins']),
    above('engine', ['sources', 'server', 'app', 'demo', 'stand-ins']),
    above('sources', ['server', 'app', 'demo', 'stand-ins']),
    above('server', ['app', 'demo', 'stand-ins']),
    above('demo', ['app', 'stand-ins']),
    above('stand-ins', ['core', 'engine', 'sources', 'server', 'app']),
    {
      name: 'core-does-no-io',
      severity: 'error',
      from: { path: '^core/' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-has-no-interface-or-driver',
      severity: 'error',
      from: { path: '^core/' },
      to: { path: 'node_modules/(react|react-dom|react-router|pg|drizzle-orm|undici|express)/' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'panes-know-no-page-that-they-stand-on',
      severity: 'error',
      from: { path: '^app/(ui|panes)/' },
      to: { path: '^app/(desk|workroom|routes)/' },
    },
    {
      name: 'pages-know-no-route-that-serves-them',
      severity: 'error',
      from: { path: '^app/(desk|workroom)/' },
      to: { path: '^app/routes/' },
    },
    {
      name: 'readers-pages-know-nothing-of-the-workroom',
      severity: 'error',
      from: { path: '^app/desk/' },
      to: { path: '^app/workroom/' },
    },
    {
      name: 'kinds-of-panes-know-no-flow',
      severity: 'error',
      from: { path: '^core/dashboard/pane/' },
      to: { path: '^core/dashboard/(flow/|[^/]+$)' },
    },
    {
      name: 'screens-take-only-types-from-the-server',
      severity: 'error',
      from: { path: '^app/(ui|panes|desk|workroom)/' },
      to: { path: '^(server|engine|sources|demo)/', dependencyTypesNot: ['type-only'] },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^build/|\\.react-router|\\.test\\.tsx?$' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
