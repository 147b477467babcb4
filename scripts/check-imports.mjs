// npm run check:imports: which folder may import which. web, server, cli → contracts → core; core imports nothing of ours,
// no network, no disk (its files for Node start the kernel module and its helpers).
import { readdirSync, readFileSync, statSync } from 'node:fs'
import { dirname, join, relative } from 'node:path'
import { root } from './lib/say.mjs'

const may = {
  core: [],
  contracts: ['core'],
  server: ['contracts', 'core'],
  web: ['contracts', 'core'],
  cli: ['core', 'server/decoding', 'server/rendering'],
  bench: ['core', 'server/decoding', 'server/rendering'],
}
/** Inside core, what a folder may import of its neighbours. */
const inCore = {
  base: ['base'],
  kernels: ['base', 'kernels'],
  colour: ['base', 'kernels', 'colour'],
  blend: ['base', 'blend'],
  formats: ['base', 'formats'],
  steps: ['base', 'steps', 'kernels', 'colour'],
  artwork: ['base', 'artwork', 'steps', 'blend', 'recipes'],
  recipes: ['base', 'artwork/layers', 'artwork/schema', 'steps', 'recipes'],
  engine: ['base', 'engine', 'artwork', 'steps', 'kernels', 'blend'],
  testing: ['base', 'engine', 'artwork', 'kernels', 'steps', 'testing'],
}

function* sources(dir) {
  for (const name of readdirSync(dir)) {
    if (['node_modules', 'dist', 'dist-types', 'wasm'].includes(name)) continue
    const path = join(dir, name)
    if (statSync(path).isDirectory()) yield* sources(path)
    else if (/\.tsx?$/.test(name) && !/\.test\.tsx?$/.test(name)) yield path
  }
}

/** Files of core for Node alone: starting the kernels and their helpers, and what tests need. */
const forNode = (at) => /\/(load-node|crew-node)\.ts$/.test(at) || at.startsWith('core/src/testing/')

const wrong = []
for (const [folder, allowed] of Object.entries(may)) {
  for (const file of sources(join(root, folder, 'src'))) {
    const text = readFileSync(file, 'utf8')
    const at = relative(root, file)
    for (const [, name] of text.matchAll(/(?:from|import)\s*\(?\s*'([^']+)'/g)) {
      const ours = /^@nimble-quill\/(.+)$/.exec(name)?.[1]
      if (ours && !allowed.some((a) => ours === a || (!a.includes('/') && ours.startsWith(`${a}/`)))) wrong.push(`${at} may not import ${name}`)
      if (name.startsWith('.')) {
        const target = relative(root, join(dirname(file), name))
        if (!target.startsWith(`${folder}/`)) wrong.push(`${at} reaches outside its room: ${name}`)
        if (folder === 'core') {
          const [, , from] = at.split('/')
          const to = target.split('/').slice(2)
          const rules = inCore[from] ?? (at.split('/').length === 3 ? null : [])
          const there = to.length === 1 ? '.' : to.join('/').replace(/\.ts$/, '')
          if (rules && !rules.some((r) => r === there || there.startsWith(`${r}/`))) wrong.push(`${at} may not import ${there}`)
        }
      }
      if (folder === 'core' && name.startsWith('node:') && !forNode(at)) wrong.push(`${at}: core has no disk and no network (${name})`)
      if (folder === 'web' && name.startsWith('node:')) wrong.push(`${at}: pages run in browsers (${name})`)
    }
  }
}
for (const w of wrong) console.error(w)
console.log(wrong.length ? `${wrong.length} imports against the arrows` : 'imports follow the arrows')
process.exit(wrong.length ? 1 : 0)
