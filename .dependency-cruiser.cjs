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

/**
 * Within a house arrows only go down. `floors` from the ground up; a folder stands on those below it
 * and not on those beside it.
 */
const floors = (house, list) =>
  list.flatMap((rooms, level) =>
    rooms.map((room) => ({
      name: `${house}-${room.replace(/\W+/g, '-')}-stands-only-on-what-is-below`,
      severity: 'error',
      from: { path: `^${house}/${room}` },
      to: {
        path: `^${house}/`,
        pathNot: `^${house}/(${[room, ...list.slice(0, level).flat()].join('|')})`,
      },
    })),
  );

const coreFloors = [
  ['[^/]+\\.ts'],
  ['directory/', 'dye/', 'time/', 'version/'],
  ['inventory/'],
  ['container/'],
  ['package/'],
  ['option-sheet/'],
  ['image/'],
  ['installed/', 'pool/', 'access/'],
  ['rollout/', 'first-desktops/'],
];

const serverFloors = [
  ['estate/(driver/|control\\.ts)'],
  ['platform/'],
  ['directory/'],
  ['estate/practice/', 'access/', 'option-sheet/', 'package/', 'installed/', 'calendar/'],
  ['pool/'],
  ['rollout/', 'readiness/', 'streaming/', 'chassis/'],
  ['image/'],
  ['planned/'],
  ['ahead/', 'bulk/', 'home/', 'estate-station/', 'first-desktops/'],
  ['demo/', 'all-stores\\.ts'],
  ['all-routes\\.ts'],
  ['application\\.ts'],
  ['main\\.ts'],
];

const webFloors = [
  ['api/'],
  ['shell/'],
  ['parts/'],
  ['packages/'],
  ['access/', 'bulk/', 'estate/', 'home/', 'images/', 'installed/', 'option-sheets/', 'pools/', 'rollouts/'],
  ['first-desktops/'],
  ['app/'],
  ['main\\.tsx'],
];

module.exports = {
  forbidden: [
    only('core', []),
    only('contract', ['core']),
    only('files', ['core']),
    only('demo', ['core']),
    only('server', ['core', 'contract', 'files', 'demo']),
    only('cli', ['core', 'contract', 'files']),
    only('web', ['core', 'contract']),
    ...floors('core/src', coreFloors),
    ...floors('server/src', serverFloors),
    ...floors('web/src', webFloors),
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
      comment: 'types included: a circle of files cannot be read from either end',
      to: { circular: true },
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
