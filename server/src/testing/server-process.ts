import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { createServer, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Sequelize } from 'sequelize'

/** The built server as a process of its own, on a database and a data folder of its own: to be killed, stopped and measured. */
export class ServerProcess {
  readonly dataDir = mkdtempSync(join(tmpdir(), 'quill-process-'))
  port = 0
  private child: ChildProcess | null = null
  private cookie = ''
  private readonly database: string
  private readonly more: Record<string, string>

  constructor(name: string, more: Record<string, string> = {}) {
    this.database = `nimble_quill_${name}`
    this.more = more
  }

  /** A connection to its database. */
  admin(): Sequelize {
    const { QUILL_DB_PORT, QUILL_DB_PASSWORD } = process.env
    return new Sequelize(this.database, 'quill', QUILL_DB_PASSWORD ?? '', {
      dialect: 'mariadb',
      host: '127.0.0.1',
      port: Number(QUILL_DB_PORT),
      logging: false,
    })
  }

  async begin(): Promise<void> {
    const { QUILL_DB_PORT, QUILL_DB_PASSWORD } = process.env
    const admin = new Sequelize('nimble_quill', 'quill', QUILL_DB_PASSWORD ?? '', {
      dialect: 'mariadb',
      host: '127.0.0.1',
      port: Number(QUILL_DB_PORT),
      logging: false,
    })
    await admin.query(`DROP DATABASE IF EXISTS ${this.database}`)
    await admin.query(`CREATE DATABASE ${this.database}`)
    await admin.close()
    this.port = await freePort()
    await this.start()
  }

  /** Starts it, and waits until it answers. */
  async start(): Promise<void> {
    const { QUILL_DB_PORT, QUILL_DB_PASSWORD } = process.env
    this.child = spawn(process.execPath, [join(__dirname, '../../dist/main.js')], {
      env: {
        ...process.env,
        QUILL_PORT: String(this.port),
        QUILL_DATA: this.dataDir,
        QUILL_WEB: this.dataDir,
        QUILL_DB_NAME: this.database,
        QUILL_DB_PORT,
        QUILL_DB_PASSWORD,
        QUILL_LEASE_SECONDS: '2',
        QUILL_CREW: '1',
        ...this.more,
      },
      stdio: ['pipe', 'ignore', 'pipe'],
    })
    let said = ''
    this.child.stderr!.on('data', (d: Buffer) => (said += d.toString()))
    for (let i = 0; i < 400; i++) {
      if (this.child.exitCode !== null) throw new Error(`the server did not start: ${said}`)
      if (await fetch(`${this.url}/api/welcome`).then((r) => r.ok, () => false)) return // prettier-ignore
      await new Promise((r) => setTimeout(r, 50))
    }
    throw new Error(`the server does not answer: ${said}`)
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }
  get pid(): number {
    return this.child!.pid!
  }

  /** Sends a signal; answers with the exit code (null where the signal ended it) and the milliseconds it took. */
  async signal(signal: NodeJS.Signals): Promise<{ code: number | null; ms: number }> {
    const { child } = this
    const began = Date.now()
    const gone = new Promise<number | null>((r) => child!.once('exit', (code) => r(code)))
    child!.kill(signal)
    return { code: await gone, ms: Date.now() - began }
  }
  /** Ends its standard input, as its parent's death does; answers as `signal`. */
  async orphan(): Promise<{ code: number | null; ms: number }> {
    const began = Date.now()
    const gone = new Promise<number | null>((r) => this.child!.once('exit', (code) => r(code)))
    this.child!.stdin!.end()
    return { code: await gone, ms: Date.now() - began }
  }

  /** Signs an account up, and answers with its cookie. */
  async account(name: string): Promise<string> {
    const response = await fetch(`${this.url}/api/accounts`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name, email: `${name}@example.org`, password: 'a long enough password' }),
    })
    return (this.cookie = response.headers.get('set-cookie')!.split(';')[0]!)
  }

  /** A request with a cookie; JSON bodies are written. */
  call(method: string, path: string, body?: unknown, cookie = this.cookie, signal?: AbortSignal): Promise<Response> {
    const raw = body instanceof Uint8Array
    return fetch(`${this.url}${path}`, {
      method,
      headers: { cookie, ...(body === undefined ? {} : { 'Content-Type': raw ? 'application/octet-stream' : 'application/json' }) },
      ...(body === undefined ? {} : { body: raw ? Buffer.from(body) : JSON.stringify(body) }),
      ...(signal ? { signal } : {}),
    })
  }

  /** Megabytes of memory that the process holds now. */
  memory(): number {
    return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${this.pid}/status`, 'utf8'))![1]) / 1024
  }
  openFiles(): number {
    return readdirSync(`/proc/${this.pid}/fd`).length
  }
  /** All files in scratch, and all others that are parts. */
  parts(): string[] {
    const all = readdirSync(this.dataDir, { recursive: true, withFileTypes: true }).filter((e) => e.isFile())
    return all.filter((e) => e.parentPath.includes('scratch') || e.name.includes('.part')).map((e) => e.name)
  }

  async end(): Promise<void> {
    if (this.child && this.child.exitCode === null && this.child.signalCode === null) await this.signal('SIGKILL')
    rmSync(this.dataDir, { recursive: true, force: true })
  }
}

const freePort = () =>
  new Promise<number>((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo
      server.close(() => done(port))
    })
  })
