import { availableParallelism } from 'node:os'
import { join, resolve } from 'node:path'

/** What the server is started with; everything comes from the environment, with defaults for loopback. */
export interface Config {
  port: number
  host: string
  dataDir: string
  database: { host: string; port: number; name: string; user: string; password: string }
  /** Whether the demo studio can be entered without a password. */
  demo: boolean
  /** Names under which the server is reached, beside its host, localhost and plain addresses: others are refused. */
  hosts: readonly string[]
  /** Served over TLS: session cookies are marked Secure. */
  tls: boolean
  webDir: string
  /** Sign-ins and sign-ups an address may try in a minute. */
  signInLimit: number
  /** Photos decoded at once. */
  decodeThreads: number
  /** Seconds that decoding one photo, and making one thumbnail with care, may take. */
  decodeSeconds: number
  thumbnailSeconds: number
  /** Seconds after which a connection on which nothing moves is closed. */
  idleSeconds: number
  /** Threads that render. */
  renderThreads: number
  /** Threads that share the pixels of one render. */
  crew: number
  /** Seconds a claimed render stays claimed without a sign of life. */
  leaseSeconds: number
}

export const CONFIG = Symbol('config')

export function readConfig(env: NodeJS.ProcessEnv = process.env): Config {
  const dataDir = resolve(env.QUILL_DATA ?? '.data')
  return {
    port: Number(env.QUILL_PORT ?? 4170),
    host: env.QUILL_HOST ?? '127.0.0.1',
    dataDir,
    database: {
      host: env.QUILL_DB_HOST ?? '127.0.0.1',
      port: Number(env.QUILL_DB_PORT ?? 4171),
      name: env.QUILL_DB_NAME ?? 'nimble_quill',
      user: env.QUILL_DB_USER ?? 'quill',
      password: env.QUILL_DB_PASSWORD ?? 'quill',
    },
    demo: env.QUILL_DEMO === '1',
    hosts: (env.QUILL_HOSTS ?? '')
      .split(',')
      .map((h) => h.trim().toLowerCase())
      .filter(Boolean),
    tls: env.QUILL_TLS === '1',
    webDir: resolve(env.QUILL_WEB ?? join(import.meta.dirname, '../../web/dist')),
    signInLimit: Number(env.QUILL_SIGN_IN_LIMIT ?? 20),
    decodeThreads: Number(env.QUILL_DECODE_THREADS ?? 1),
    decodeSeconds: Number(env.QUILL_DECODE_SECONDS ?? 120),
    thumbnailSeconds: Number(env.QUILL_THUMBNAIL_SECONDS ?? 40),
    idleSeconds: Number(env.QUILL_IDLE_SECONDS ?? 120),
    renderThreads: Number(env.QUILL_RENDER_THREADS ?? 1),
    crew: Number(env.QUILL_CREW ?? Math.min(8, availableParallelism())),
    leaseSeconds: Number(env.QUILL_LEASE_SECONDS ?? 20),
  }
}
