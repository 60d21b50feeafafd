/*
 * Which room may import from which. A row names a room, and the rooms it may use; "type" before a name: types only.
 * A room may always use itself. No file may be part of a circle. Checked by `npm run rooms`, for every file.
 */
/** @type {Readonly<Record<string, string>>} */
const rooms = {
  kernels: 'base',
  base: '',
  colour: 'base',
  pixels: 'base colour kernels',
  'operations/declare': 'base type:colour pixels type:kernels',
  'operations/support': 'base colour pixels kernels operations/declare',
  'operations/measure': 'base colour pixels kernels operations/support',
  'operations/catalogue': 'base colour pixels kernels operations/declare operations/support operations/measure',
  operations: 'base colour operations/catalogue operations/declare operations/support',
  macros: 'base pixels operations operations/declare',
  engine: 'base colour pixels kernels operations operations/declare operations/measure macros',
  jobs: 'base colour pixels operations operations/declare macros',
  files: 'base colour pixels macros jobs',
  sheets: 'base operations/support jobs',
  store: 'base type:pixels type:macros jobs',
  processes: 'base',
  services: 'base colour pixels kernels operations operations/declare macros engine jobs files sheets store processes contract',
  runner: 'base pixels kernels operations/declare macros engine jobs files store processes services',
  contract: 'base pixels macros jobs type:colour type:operations type:services',
  web: 'base macros jobs store processes services contract',
  app: 'base jobs services web contract ui',
  ui: 'base colour pixels kernels operations operations/declare macros engine jobs sheets contract',
  cli: 'base files macros jobs store services',
  demo: 'macros jobs store services',
}

/** Rooms that lie beside src/. */
const atTop = ['kernels', 'demo']
/**
 * The files that lie in a room: those of the rooms within it are theirs.
 * @param {string} room
 */
const filesOf = (room) => {
  const folder = atTop.includes(room) ? room : `src/${room}`
  const within = Object.keys(rooms).some((other) => other.startsWith(`${room}/`))
  return within ? `^${folder}/[^/]+$` : `^${folder}/`
}
const all = Object.keys(rooms)
const tests = '[.]test[.]tsx?$'

/** @param {[room: string, uses: string]} row */
const rulesOf = ([room, uses]) => {
  const named = uses.split(' ').filter(Boolean)
  const free = [room, ...named.filter((name) => !name.startsWith('type:'))]
  const typesOnly = named.filter((name) => name.startsWith('type:')).map((name) => name.slice(5))
  const from = { path: filesOf(room), pathNot: tests }
  return [
    {
      name: `${room} uses only what its row names`,
      severity: 'error',
      from,
      to: { path: all.filter((other) => !free.includes(other) && !typesOnly.includes(other)).map(filesOf) },
    },
    ...typesOnly.map((other) => ({
      name: `${room} uses only types of ${other}`,
      severity: 'error',
      from,
      to: { path: filesOf(other), dependencyTypesNot: ['type-only'] },
    })),
  ]
}

module.exports = {
  forbidden: [
    { name: 'no circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'every import leads to a file',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, path: '^([.]|@/|@kernels/)', pathNot: '[.](css|mjs)$' },
    },
    {
      name: 'every file lies in a room',
      severity: 'error',
      from: {},
      to: { path: '^(src|kernels|demo)/', pathNot: all.map(filesOf) },
    },
    {
      name: 'nothing imports tests',
      severity: 'error',
      from: { pathNot: ['^tests/', '^bench/', tests] },
      to: { path: ['^tests/', tests] },
    },
    ...Object.entries(rooms).flatMap(rulesOf),
  ],
  options: {
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(node_modules|^kernels/assembly)/' },
  },
}
