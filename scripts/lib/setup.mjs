import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { writeKernelCalls } from './kernel-calls.mjs'
import { root, run, say, Stop } from './say.mjs'

const places = ['/usr/sbin', '/usr/bin', '/usr/local/bin', '/usr/local/sbin', ...(process.env.PATH ?? '').split(':')]

/** The path of a program, or null. */
export const find = (name) => places.map((d) => join(d, name)).find((p) => existsSync(p)) ?? null

/** Installs a Debian package when its program is missing. */
export async function ensureDebian(program, pkg) {
  if (find(program)) return
  const hint = `Install it with:  apt-get install ${pkg}  (as root), then start again.`
  if (!find('apt-get')) throw new Stop(`${program} is not installed, and this is not a Debian system. Install ${pkg} in your system's way, then start again.`)
  if (process.getuid?.() !== 0) throw new Stop(`${program} is not installed, and only root may install packages. ${hint}`)
  say(`installing ${pkg} (Debian's package), once`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  try {
    // a fresh machine has no package lists yet
    await run('apt-get', ['update', '-qq'], { env })
    await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', pkg], { env })
  } catch (error) {
    throw new Stop(`${pkg} could not be installed. ${hint}\n${error.message}`)
  }
  if (!find(program)) throw new Stop(`${pkg} was installed but ${program} is still missing. ${hint}`)
}

/** Installs the npm packages when they are missing or older than the lock file. */
export async function ensurePackages() {
  const [major] = process.versions.node.split('.').map(Number)
  if (major < 20) throw new Stop(`Node ${process.versions.node} is too old; Nimble Quill needs Node 20.19 or newer.`)
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  const stamp = join(root, 'node_modules/.quill-lock')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return
  say('installing npm packages (npm ci), about two minutes, once')
  await run('npm', ['ci', '--no-audit', '--no-fund'])
  writeFileSync(stamp, lock)
}

/** A hash of all files below some folders that go into a build. */
function fingerprint(folders) {
  const hash = createHash('sha256')
  const visit = (path) => {
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort()) if (!['node_modules', 'dist', 'wasm'].includes(name)) visit(join(path, name))
    } else hash.update(path.slice(root.length)).update(readFileSync(path))
  }
  for (const f of folders) visit(join(root, f))
  return hash.digest('hex')
}

async function unlessBuilt(name, folders, product, build) {
  const stamps = join(root, '.data/build')
  mkdirSync(stamps, { recursive: true })
  const stamp = join(stamps, name)
  const now = fingerprint(folders)
  if (existsSync(join(root, product)) && existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return
  await build()
  writeFileSync(stamp, now)
}

const bin = (name) => join(root, 'node_modules/.bin', name)

/** Kernels to WebAssembly, TypeScript to JavaScript, the pages to a bundle; what has not changed is left. */
export async function build() {
  await unlessBuilt('kernels', ['core/kernels', 'core/asconfig.json', 'package-lock.json'], 'core/wasm/core.wasm', async () => {
    say('building the kernels (WebAssembly)')
    await run(bin('asc'), ['--config', 'asconfig.json'], { cwd: join(root, 'core') })
    await run(bin('asc'), ['--config', 'asconfig.json', '--enable', 'threads', '--sharedMemory', '--outFile', 'wasm/core-shared.wasm'], {
      cwd: join(root, 'core'),
    })
  })
  // asks little, and what it writes must never be older than the kernels
  writeKernelCalls()
  await unlessBuilt(
    'types',
    ['core/src', 'contracts/src', 'server/src', 'cli/src', 'web/src', 'bench/src', 'tsconfig.base.json', 'package-lock.json'],
    'server/dist/main.js',
    async () => {
      say('compiling TypeScript')
      await run(bin('tsc'), ['-b', 'core', 'contracts', 'server', 'cli', 'web', 'bench'])
    },
  )
  await unlessBuilt(
    'pages',
    ['core/src', 'core/kernels', 'contracts/src', 'web/src', 'web/index.html', 'web/vite.config.ts', 'web/public', 'package-lock.json'],
    'web/dist/index.html',
    async () => {
      say('bundling the pages')
      await run(bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'web') })
    },
  )
}
