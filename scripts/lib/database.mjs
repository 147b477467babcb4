import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, openSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { userInfo } from 'node:os'
import { join } from 'node:path'
import { root, run, say, Stop } from './say.mjs'
import { ensureDebian, find } from './setup.mjs'

/** Whether something listens on a loopback port. */
export const portTaken = (port) =>
  new Promise((done) => {
    const socket = connect({ port, host: '127.0.0.1' })
    socket.on('connect', () => (socket.destroy(), done(true)))
    socket.on('error', () => done(false))
  })

/** A loopback port that is free now. */
export const freePort = () =>
  new Promise((done) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address()
      server.close(() => done(port))
    })
  })

/**
 * Starts a private MariaDB on loopback with its own folder, or takes over one that an earlier, killed run left running.
 * A half-finished earlier setup is begun anew.
 * @returns {Promise<{ env: Record<string, string>, stop: () => Promise<void> }>}
 */
export async function startDatabase(dir, port) {
  await ensureDebian('mariadbd', 'mariadb-server')
  mkdirSync(dir, { recursive: true })
  const at = (name) => join(dir, name)
  // a socket's path may have about 100 bytes only
  const socket = at('mysqld.sock').length < 100 ? at('mysqld.sock') : join('/tmp', `quill-${port}.sock`)
  const user = userInfo().username
  const asRoot = process.getuid?.() === 0
  // the database's administrator is the one who set it up, known by the socket
  const login = ['--no-defaults', `--socket=${socket}`, `-u${asRoot ? 'root' : user}`]
  const admin = (...args) => run(find('mariadb-admin'), [...login, ...args])
  const sql = (text) =>
    run(find('mariadb'), [...login, '-N', '-e', text]).catch((error) => {
      // the statement holds the password
      throw new Stop(`The database refused its own administrator: ${error.message.split('\n').find((l) => l.startsWith('ERROR')) ?? ''}`)
    })
  const answers = () =>
    admin('ping').then(
      () => true,
      () => false,
    )

  if (!existsSync(at('ready'))) {
    if (existsSync(at('data'))) {
      say('an earlier setup of the database was not finished: beginning anew')
      rmSync(at('data'), { recursive: true, force: true })
    } else say('setting up a private MariaDB, once')
    await run(find('mariadb-install-db'), [
      '--no-defaults',
      ...(asRoot ? ['--user=root'] : []),
      `--datadir=${at('data')}`,
      '--auth-root-authentication-method=socket',
      ...(asRoot ? [] : [`--auth-root-socket-user=${user}`]),
      '--skip-test-db',
      '--skip-name-resolve',
    ])
    writeFileSync(at('password'), randomBytes(18).toString('base64url'), { mode: 0o600 })
    writeFileSync(at('ready'), 'ready\n')
  }
  const password = readFileSync(at('password'), 'utf8')

  let child = null
  if (await answers()) {
    say('the database of an earlier run is still up: taking it over')
    port = Number((await sql('SELECT @@port')).trim())
  } else {
    if (await portTaken(port)) throw new Stop(`Port ${port} (for the database) is taken by another program. Stop it, or choose another with QUILL_DB_PORT=…`)
    const log = openSync(at('mysqld.log'), 'a')
    // its own process group: Ctrl-C reaches this script, which then stops the database in order
    child = spawn(
      find('mariadbd'),
      [
        '--no-defaults',
        ...(asRoot ? ['--user=root'] : []),
        `--datadir=${at('data')}`,
        `--socket=${socket}`,
        `--pid-file=${at('mysqld.pid')}`,
        `--log-error=${at('mysqld.log')}`,
        `--port=${port}`,
        '--bind-address=127.0.0.1',
        '--skip-name-resolve',
        '--skip-log-bin',
        '--character-set-server=utf8mb4',
        '--collation-server=utf8mb4_unicode_ci',
        '--innodb-flush-log-at-trx-commit=1',
        '--innodb-buffer-pool-size=64M',
        '--max-allowed-packet=64M',
      ],
      { detached: true, stdio: ['ignore', log, log], cwd: root },
    )
    let ended = false
    child.on('exit', () => (ended = true))
    for (let tries = 0; !(await answers()); tries++) {
      if (ended || tries > 150) {
        throw new Stop(`MariaDB did not start. Its log, ${at('mysqld.log')}, says:\n${readFileSync(at('mysqld.log'), 'utf8').split('\n').slice(-8).join('\n')}`)
      }
      await new Promise((r) => setTimeout(r, 200))
    }
  }
  await sql(`CREATE DATABASE IF NOT EXISTS nimble_quill; CREATE USER IF NOT EXISTS 'quill'@'127.0.0.1'; ALTER USER 'quill'@'127.0.0.1' IDENTIFIED BY '${password}';
    GRANT ALL ON nimble_quill.* TO 'quill'@'127.0.0.1'; GRANT ALL ON \`nimble_quill\\_%\`.* TO 'quill'@'127.0.0.1';`)
  return {
    env: { QUILL_DB_HOST: '127.0.0.1', QUILL_DB_PORT: String(port), QUILL_DB_NAME: 'nimble_quill', QUILL_DB_USER: 'quill', QUILL_DB_PASSWORD: password },
    stop: () =>
      admin('shutdown').then(
        () => undefined,
        () => undefined,
      ),
  }
}
