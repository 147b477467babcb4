import { spawn, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { writeKernelCalls } from './kernel-calls.mjs'
import { root, run, say, Stop } from './say.mjs'

/** Runs a program, shows what it says, and keeps it. */
const capture = (program, args, options) =>
  new Promise((done, fail) => {
    const child = spawn(program, args, { ...options, stdio: ['inherit', 'pipe', 'pipe'] })
    let text = ''
    for (const [stream, out] of [
      [child.stdout, process.stdout],
      [child.stderr, process.stderr],
    ])
      stream.on('data', (d) => {
        text += d
        out.write(d)
      })
    child.on('error', fail)
    child.on('close', (code) => done({ code, text }))
  })

const places = ['/usr/sbin', '/usr/bin', '/usr/local/bin', '/usr/local/sbin', ...(process.env.PATH ?? '').split(':')]

/** The path of a program, or null. */
export const find = (name) => places.map((d) => join(d, name)).find((p) => existsSync(p)) ?? null

/** How long a package system that is busy, as on a machine just started, is waited for. */
const APT_PATIENCE = 5 * 60_000

/** Runs apt-get, and waits for whoever holds its lock. */
async function apt(as, args, env) {
  const until = Date.now() + APT_PATIENCE
  for (let told = false; ;) {
    const { code, text } = await capture(as[0], [...as.slice(1), 'apt-get', '-o', 'DPkg::Lock::Timeout=60', ...args], { env })
    if (code === 0) return
    const busy = /could not get lock|is another process using it|Unable to acquire the dpkg frontend lock|Unable to lock/i.test(text)
    if (!busy || Date.now() > until) throw new Error(text.trim().split('\n').slice(-6).join('\n'))
    if (!told) say('another program is installing packages; waiting for it')
    told = true
    await new Promise((r) => setTimeout(r, 3000))
  }
}

/** How apt-get is run: as it is by root; by others through sudo, which asks for the password where there is somebody to ask. */
function asRoot() {
  if (process.getuid?.() === 0) return ['env']
  const sudo = find('sudo')
  if (!sudo) return null
  const asks = process.stdin.isTTY === true
  if (!asks && spawnSync(sudo, ['-n', 'true']).status !== 0) return null
  return [sudo, ...(asks ? [] : ['-n']), 'DEBIAN_FRONTEND=noninteractive']
}

/** Installs a Debian package when its program is missing. */
export async function ensureDebian(program, pkg) {
  if (find(program)) return
  const hint = `Install it with:  apt-get install ${pkg}  (as root), then start again.`
  if (!find('apt-get')) throw new Stop(`${program} is not installed, and this is not a Debian system. Install ${pkg} in your system's way, then start again.`)
  const as = asRoot()
  if (!as) throw new Stop(`${program} is not installed, and only root may install packages. ${hint}`)
  say(`installing ${pkg} (Debian's package), once${as[0] === 'env' ? '' : '; sudo may ask for your password'}`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  try {
    // a fresh machine has no package lists yet
    await apt(as, ['update', '-qq'], env)
    await apt(as, ['install', '-y', '-qq', '--no-install-recommends', pkg], env)
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
    const asc = (...more) => run(bin('asc'), ['--config', 'asconfig.json', ...more], { cwd: join(root, 'core') })
    await Promise.all([asc(), asc('--enable', 'threads', '--sharedMemory', '--outFile', 'wasm/core-shared.wasm')])
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
