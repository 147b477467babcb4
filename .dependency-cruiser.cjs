// What may import what. Arrows point one way; `npm run check:imports` holds them.

/** Folders of core, each with those it may import besides its own; files of the folder itself (index.ts) may import all. */
const core = {
  base: [],
  formats: ['base', 'paths'],
  colour: ['base', 'kernels'],
  kernels: ['base'],
  blend: ['base'],
  steps: ['base', 'colour', 'kernels', 'blend', 'paths', 'study'],
  study: ['base', 'kernels'],
  planes: ['base'],
  strokes: ['base', 'kernels', 'planes'],
  paths: ['base'],
  ink: ['base', 'paths'],
  areas: ['base', 'paths'],
  mend: ['base'],
  artwork: ['base', 'colour', 'blend', 'strokes', 'steps'],
  recipes: ['base', 'colour', 'steps', 'artwork', 'study'],
  engine: ['base', 'paths', 'blend', 'colour', 'kernels', 'planes', 'strokes', 'study', 'steps', 'artwork', 'formats', 'ink', 'areas', 'mend'],
  testing: ['base', 'ink', 'blend', 'colour', 'kernels', 'steps', 'artwork', 'recipes', 'planes', 'strokes', 'study', 'engine'],
}
/** Rooms of the house, each with those it may import. */
const rooms = {
  core: [],
  contracts: ['core'],
  server: ['core', 'contracts'],
  web: ['core', 'contracts'],
  cli: ['core', 'server'],
  bench: ['core', 'server'],
}

module.exports = {
  forbidden: [
    {
      name: 'no-circle',
      comment: 'Files that need each other are one thing, or wrongly cut.',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    { name: 'there', comment: 'What is imported is there.', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: '\\?url$' } },
    ...Object.entries(rooms).map(([room, may]) => ({
      name: `${room}-to`,
      comment: `${room} may import: ${['itself', ...may].join(', ')}.`,
      severity: 'error',
      from: { path: `^${room}/src/` },
      to: { path: `^(${Object.keys(rooms).join('|')}|e2e|scripts|demo)/`, pathNot: `^(${[room, ...may].join('|')})/` },
    })),
    {
      name: 'server-from-outside',
      comment: 'Of the server, the command line and the bench use decoding and rendering only.',
      severity: 'error',
      from: { path: '^(cli|bench)/src/' },
      to: { path: '^server/', pathNot: '^server/(src|dist)/(photos/decoding|renders/rendering)\\.' },
    },
    ...Object.entries(core).map(([folder, may]) => ({
      name: `core-${folder}-to`,
      comment: `core/${folder} may import: ${['itself', ...may].join(', ')}.`,
      severity: 'error',
      from: { path: `^core/src/${folder}/` },
      to: { path: '^core/src/', pathNot: `^core/src/(${[folder, ...may].join('|')})/` },
    })),
    {
      name: 'recipes-know-layers',
      comment: 'A recipe is data made with layers, masks, panels and their schema.',
      severity: 'error',
      from: { path: '^core/src/recipes/' },
      to: { path: '^core/src/artwork/', pathNot: '^core/src/artwork/(layers|panels|planes|schema)\\.ts$' },
    },
    {
      name: 'core-without-machine',
      comment: 'Core has no disk and no network; starting the kernels under Node and what tests need excepted.',
      severity: 'error',
      from: { path: '^core/src/', pathNot: '^core/src/(testing/|kernels/(load-node|crew-node)\\.ts$)' },
      to: { dependencyTypes: ['core'] },
    },
    { name: 'web-without-node', comment: 'Pages run in browsers.', severity: 'error', from: { path: '^web/src/' }, to: { dependencyTypes: ['core'] } },
  ],
  options: {
    doNotFollow: { path: ['node_modules', '/dist/', '/wasm/'] },
    exclude: { path: ['\\.test\\.tsx?$'] },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.js'], exportsFields: ['exports'], conditionNames: ['import', 'types', 'default'] },
  },
}
