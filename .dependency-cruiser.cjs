/** The arrows of the house: see docs/architecture.md. */
const only = (from, allowed) => ({
  name: `${from}-stands-on-${allowed.join('-') || 'nothing'}`,
  severity: 'error',
  from: { path: `^${from}/src` },
  to: {
    path: '^(core|contract|files|demo|server|cli|web|e2e|bench)/',
    pathNot: `^(${[from, ...allowed].join('|')})/`,
  },
});

module.exports = {
  forbidden: [
    only('core', []),
    only('contract', ['core']),
    only('files', ['core']),
    only('demo', ['core']),
    only('server', ['core', 'contract', 'files', 'demo']),
    only('cli', ['core', 'contract', 'files']),
    only('web', ['core', 'contract']),
    {
      name: 'core-does-no-input-or-output',
      severity: 'error',
      from: { path: '^core/src' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'the-practice-estate-is-reached-through-its-driver',
      comment:
        'application code must not be able to tell the practice estate from a real one; only the demo fills it',
      severity: 'error',
      from: { path: '^server/src', pathNot: '^server/src/(estate/|demo/|application)' },
      to: { path: '^server/src/estate/practice/' },
    },
    {
      name: 'no-cycles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['source', 'import', 'require', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.js'],
    },
  },
};
