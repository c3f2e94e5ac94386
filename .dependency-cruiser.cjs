/** Imports go one way: app → ui, server; ui → workers, core; workers, server → core; simulators, demo → server, core. */
const layer = (name, from, allowed) => ({
  name,
  severity: 'error',
  from: { path: from },
  to: { path: '^src/', pathNot: [from, ...allowed] },
});

module.exports = {
  forbidden: [
    layer('core-imports-nothing-of-ours', '^src/core/', []),
    {
      // The shapes that the server answers in are types; they vanish in the build, and only they may be imported.
      name: 'ui-imports-core-and-workers',
      severity: 'error',
      from: { path: '^src/ui/' },
      to: { path: '^src/', pathNot: ['^src/ui/', '^src/core/', '^src/workers/'], dependencyTypesNot: ['type-only'] },
    },
    layer('workers-import-core', '^src/workers/', ['^src/core/']),
    layer('server-imports-core', '^src/server/', ['^src/core/']),
    layer('simulators-import-server-and-core', '^src/simulators/', ['^src/core/', '^src/server/']),
    layer('demo-imports-server-core-simulators', '^src/demo/', ['^src/core/', '^src/server/', '^src/simulators/']),
    layer('app-imports-ui-and-server', '^src/app/', [
      '^src/core/',
      '^src/server/',
      '^src/ui/',
      '^src/simulators/',
      '^src/entry/operations',
    ]),
    {
      name: 'core-uses-pure-packages-only',
      severity: 'error',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      to: {
        path: 'node_modules',
        pathNot: ['@noble/hashes', 'temporal-polyfill', 'csv-parse', 'ical.js', 'rrule-temporal'].map(
          (name) => `node_modules/${name}`,
        ),
      },
    },
    {
      name: 'core-has-no-input-or-output',
      severity: 'error',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      // What a feature offers others are its use cases; its operations are for callers from outside.
      name: 'features-do-not-import-operations-of-others',
      severity: 'error',
      from: { path: '^src/server/([^/]+)/', pathNot: '^src/server/operations/registry\\.ts$' },
      to: { path: '^src/server/[^/]+/operations\\.ts$', pathNot: '^src/server/$1/' },
    },
    {
      // In the core not even shapes may need one another in a circle.
      name: 'no-circles-of-shapes-in-the-core',
      severity: 'error',
      from: { path: '^src/core/' },
      to: { circular: true },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.cjs', '.json'],
    },
  },
};
