import { mkdirSync, readdirSync, rmSync, statSync } from 'node:fs'
import { open, readdir, rename, rm, stat } from 'node:fs/promises'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'

/** What another machine left is taken for left behind when nothing in it was touched for so long. */
const ABANDONED = 24 * 3600 * 1000

/**
 * Files named by content under one data folder. A file is written under a temporary name, made safe on the disk, and
 * renamed; rows refer to it after. Temporary files lie in a folder of their own for each server process, named by the machine and process, so that
 * what a killed one left is found and cleared at the next start.
 */
export class Store {
  /** Folders in scratch of this process. */
  private static readonly live = new Set<string>()
  private readonly root: string
  private readonly mine: string
  /** Eight hexadecimal digits that tell this process from every other that has worked in the folder. */
  readonly mark = randomUUID().slice(0, 8)
  /** Marks of the processes that were found to be gone at the start. */
  readonly gone: readonly string[]

  constructor(root: string) {
    this.root = root
    for (const d of ['photos', 'planes', 'renders', 'thumbnails', 'scratch']) mkdirSync(join(root, d), { recursive: true })
    this.gone = this.clearScratch()
    // thumbnails lay in no folders once
    for (const e of readdirSync(join(root, 'thumbnails'), { withFileTypes: true })) if (e.isFile()) rmSync(join(root, 'thumbnails', e.name))
    this.mine = join(root, 'scratch', `${hostname()}.${process.pid}.${this.mark}`)
    mkdirSync(this.mine)
    Store.live.add(this.mine)
  }

  original(asset: string): string {
    return join(this.root, 'photos', `${asset}.original`)
  }
  pyramid(asset: string): string {
    return join(this.root, 'photos', `${asset}.pyramid`)
  }
  small(asset: string, size: number): string {
    return join(this.root, 'photos', `${asset}.${size}.webp`)
  }
  get planesRoot(): string {
    return join(this.root, 'planes')
  }
  /** What an account painted: parts of planes by name, in folders by their first two letters. */
  planes(accountId: string): string {
    return join(this.planesRoot, accountId)
  }
  get renders(): string {
    return join(this.root, 'renders')
  }
  /** The file that a claim of a render made; one that lost its claim wrote to another. Those of before claims had tokens have none in their name. */
  render(id: string, claim: string | null, format: string): string {
    return join(this.renders, `${[id, ...(claim ? [claim] : []), endingOf(format)].join('.')}`)
  }
  thumbnail(artwork: string, revision: number): string {
    return join(this.root, 'thumbnails', artwork, `${revision}.png`)
  }
  /** A path for passing use, a fresh one where it is not named. */
  scratch(name: string = randomUUID()): string {
    return join(this.mine, name)
  }

  async has(path: string): Promise<boolean> {
    return stat(path).then(
      () => true,
      () => false,
    )
  }

  /** Puts a finished file in its place: on the disk first, then under its name. */
  async keep(part: string, path: string): Promise<void> {
    const file = await open(part, 'r')
    try {
      await file.sync()
    } finally {
      await file.close()
    }
    await rename(part, path)
  }

  /** Puts a thumbnail in its place; those of other revisions go. */
  async keepThumbnail(part: string, artwork: string, revision: number): Promise<void> {
    const folder = join(this.root, 'thumbnails', artwork)
    mkdirSync(folder, { recursive: true })
    await rename(part, this.thumbnail(artwork, revision))
    for (const name of await readdir(folder)) if (Number.parseInt(name) < revision) await rm(join(folder, name), { force: true })
  }

  /** Removes what processes that are gone left in scratch, and answers with their marks. */
  private clearScratch(): string[] {
    const folder = join(this.root, 'scratch')
    const gone: string[] = []
    for (const name of readdirSync(folder)) {
      const path = join(folder, name)
      const [pid, host] = [Number(name.split('.').at(-2)), name.split('.').slice(0, -2).join('.')]
      // a process of an earlier start may have had this one's number
      const here = !host || host === hostname()
      const alive = here ? (pid === process.pid ? Store.live.has(path) : running(pid)) : Date.now() - statSync(path).mtimeMs < ABANDONED
      if (alive) continue
      gone.push(name.split('.').at(-1)!)
      rmSync(path, { recursive: true, force: true })
    }
    return gone
  }

  /** Removes this process's temporary files. */
  async close(): Promise<void> {
    Store.live.delete(this.mine)
    await rm(this.mine, { recursive: true, force: true })
  }
}

function running(pid: number): boolean {
  if (!Number.isInteger(pid) || pid <= 0) return false
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM'
  }
}

/** What the name of a file of a format ends in. */
export const endingOf = (format: string): string => ({ jpeg: 'jpg', 'svg-lines': 'svg' })[format] ?? format
