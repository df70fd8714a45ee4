/** The import rule: app → ui → audio, workers → core, and app, cli → server → core. */
const forbid = (from, to) => ({
  name: `${from.replace('/', '-')}-must-not-import-${to.replace(/\W+/g, '-')}`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: { path: `^(${to})/` },
});

/** The wings of ui/, top to bottom: each may import those below it. */
const WINGS = ['pages', 'places', 'work', 'window', 'kit'];
const wings = WINGS.slice(1).map((wing, i) =>
  forbid(
    `ui/${wing}`,
    WINGS.slice(0, i + 1)
      .map((one) => `ui/${one}`)
      .join('|'),
  ),
);

module.exports = {
  forbidden: [
    ...wings,
    {
      name: 'places-do-not-import-places',
      comment: 'What two places share belongs to what one does, or to the window.',
      severity: 'error',
      from: { path: '^ui/places/([^/]+)/' },
      to: { path: '^ui/places/([^/]+)/', pathNot: '^ui/places/$1/' },
    },
    forbid('core', 'app|audio|workers|proof|server|ui|cli|demo|bench|e2e|scripts'),
    forbid('proof', 'app|audio|workers|server|ui|cli|demo|bench|e2e|scripts'),
    forbid('audio', 'app|ui|server|cli|demo|bench|e2e|scripts'),
    forbid('workers', 'app|ui|server|cli|demo|bench|e2e|scripts'),
    forbid('server', 'app|ui|audio|workers|proof|cli|bench|e2e|scripts'),
    forbid('ui', 'app|server|proof|cli|demo|bench|e2e|scripts'),
    forbid('app', 'cli|demo|bench|e2e|scripts'),
    forbid('cli', 'app|ui|audio|workers|bench|e2e|scripts'),
    forbid('demo', 'app|ui|audio|workers|cli|bench|e2e|scripts'),
    {
      name: 'core-is-pure',
      comment: 'The computation knows nothing of where it runs: no React, DOM helper, Node module or database.',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$|/testing/' },
      to: {
        dependencyTypes: ['core', 'npm', 'npm-dev', 'npm-no-pkg', 'npm-unknown'],
        pathNot: 'node_modules/(zod|immer|nanoid|fft\\.js|d3-array|midi-file)',
      },
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
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    exclude: { path: '^(\\.next|build|\\.orvid)' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
