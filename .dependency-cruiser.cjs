// The floors of the house: a floor may use the floors below it and never one above or beside.
const floor = (name, below) => ({
  name: `floor-${name}`,
  comment: `${name} may use only ${below.length ? below.join(', ') : 'itself'}`,
  severity: 'error',
  from: { path: `^src/${name}/`, pathNot: '\\.test\\.ts$|/testing/' }, // tests may set up what they need
  to: { path: '^src/', pathNot: [`^src/${name}/`, ...below.map((b) => `^src/${b}/`)] },
})
// The rooms of the engine, each of which uses only those before it, by their index.
const rooms = [
  'math',
  'memory',
  'geometry',
  'ops',
  'plan',
  'frame',
  'march',
  'objects',
  'solver',
  'fields',
  'asked',
  'contact',
  'particles',
  'bodies',
  'gas',
  'growth',
  'world',
  'time',
]
const room = (name, i) => ({
  name: `engine-room-${name}`,
  comment: `engine/${name} may use only the index of ${rooms.slice(0, i).join(', ') || 'nothing'}`,
  severity: 'error',
  from: { path: `^src/engine/${name}/`, pathNot: '\\.test\\.ts$' },
  to: { path: '^src/engine/', pathNot: [`^src/engine/${name}/`, ...rooms.slice(0, i).map((r) => `^src/engine/${r}/index\\.ts$`)] },
})
const low = ['shot', 'engine', 'acts']
module.exports = {
  forbidden: [
    floor('kernels', []),
    floor('shot', []),
    floor('engine', ['shot']),
    floor('acts', ['engine', 'shot']),
    // Formats stand below hosts and stage: both read files, and formats need neither.
    floor('formats', low),
    floor('protocol', low),
    // Kernels made ready: both the simulation and the stage compute with them.
    floor('machines', low),
    floor('hosts', ['machines', 'protocol', 'formats', ...low]),
    floor('stage', ['machines', 'protocol', 'formats', ...low]),
    floor('server', ['hosts', 'stage', 'machines', 'protocol', 'formats', ...low]),
    floor('studio', ['hosts', 'stage', 'machines', 'protocol', 'formats', ...low]),
    ...rooms.map(room),
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
    {
      name: 'engine-is-pure',
      comment: 'no React, three, Node.js or database in the engine and below',
      severity: 'error',
      from: { path: '^src/(engine|shot|acts)/', pathNot: '\\.test\\.ts$|/testing/' },
      to: { dependencyTypes: ['core', 'npm'], pathNot: 'node_modules/(zod|earcut|dequal)/' },
    },
    {
      name: 'page-without-three',
      comment: 'three.js lives in the stage worker; the page would load it twice',
      severity: 'error',
      from: { path: '^src/(studio|app)/' },
      to: { path: ['^src/stage/(stage|objects|points|passes|portrait)\\.ts', 'node_modules/three'] },
    },
    {
      name: 'charts-come-later',
      comment: 'the library of charts is a quarter of the scripts of a page: what shows a chart is imported when it is first seen',
      severity: 'error',
      from: { path: '^src/(studio|app)/', pathNot: '^src/studio/(charts/ChartsTab|particle/ParticleTab)\\.tsx$' },
      to: {
        path: '^src/studio/(charts/(Chart|ChartsTab)|particle/ParticleTab)\\.tsx$',
        dependencyTypesNot: ['dynamic-import', 'type-only'],
      },
    },
    { name: 'studio-not-on-server', severity: 'error', from: { path: '^src/studio/' }, to: { path: '^src/(server|app)/' } },
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '\\.next|^src/kernels' },
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.js', '.mjs'] },
  },
}
