/** Each layer knows only those under it (docs/architecture.md). Tests and the two entry points may reach anywhere. */
const tests = '\\.test\\.tsx?$|^server/test-(database|kept|sound)\\.ts$|^engine/columnar/test-pair\\.ts$';
const above = (layer, others) => ({
  name: `${layer}-knows-only-what-is-under-it`,
  severity: 'error',
  from: { path: `^${layer}/`, pathNot: `${tests}|^server/web\\.ts$` },
  to: { path: `^(${others.join('|')})/` },
});

module.exports = {
  forbidden: [
    above('core', ['engine', 'sources', 'server', 'app', 'demo', 'stand-ins']),
    above('engine', ['sources', 'server', 'app', 'demo', 'stand-ins']),
    above('sources', ['server', 'app', 'demo', 'stand-ins']),
    above('server', ['app', 'demo', 'stand-ins']),
    above('demo', ['app', 'stand-ins']),
    above('stand-ins', ['core', 'engine', 'sources', 'server', 'app']),
    {
      name: 'core-does-no-io',
      severity: 'error',
      from: { path: '^core/', pathNot: tests },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-has-no-interface-or-driver',
      severity: 'error',
      from: { path: '^core/', pathNot: tests },
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
      from: { path: '^core/pane/', pathNot: tests },
      to: { path: '^core/(flow|dashboard|lineage)/' },
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
    exclude: { path: '^build/|\\.react-router' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
