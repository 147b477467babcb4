import { createHash } from 'node:crypto'
import { mkdir, open, readdir, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { Inject, Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common'
import {
  inksOf,
  isInkPart,
  isPlanePart,
  parseInkRoot,
  parsePage,
  parseRoot,
  planesOf,
  QuillError,
  tileNames,
  type Artwork as Document,
} from '@nimble-quill/core'
import { Artwork, Render, States } from '../database/models.ts'
import { ProblemException } from '../problems/problem.ts'
import type { Store } from '../photos/store.ts'
import { STORE } from '../photos/tokens.ts'
import { inflatedPart, readPart } from './parts.ts'

/** A part that no kept document names may go after so long: an open page may still undo to it. */
const SPARED = 24 * 3600 * 1000
const SWEEP_EVERY = 24 * 3600 * 1000
/** Planes that were seen to be whole are not looked through again. */
const KNOWN = 20_000
/** Files looked for side by side. */
const SIDE_BY_SIDE = 32

/** Parts of painted planes (tiles, pages, roots), an account's each, named by the SHA-256 of their bytes and kept deflated. */
@Injectable()
export class PlanesService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly log = new Logger('planes')
  private readonly store: Store
  private readonly whole = new Set<string>()
  private timer: NodeJS.Timeout | null = null
  private sweeping: Promise<number> | null = null

  constructor(@Inject(STORE) store: Store) {
    this.store = store
  }

  onApplicationBootstrap(): void {
    // not while the first requests come
    const sweep = () => void this.sweep().catch((error: unknown) => this.log.warn(`The sweep of painted parts was broken off: ${String(error)}`))
    this.timer = setInterval(sweep, SWEEP_EVERY)
    this.timer.unref()
    setTimeout(sweep, 30_000).unref()
  }

  async onModuleDestroy(): Promise<void> {
    if (this.timer) clearInterval(this.timer)
    await this.sweeping?.catch(() => undefined)
  }

  folder(accountId: string): string {
    return this.store.planes(accountId)
  }
  private path(accountId: string, name: string): string {
    return join(this.folder(accountId), name.slice(0, 2), name)
  }

  /**
   * Keeps a part. One that is there already is left as it is.
   * @param deflated as it was sent (zlib)
   * @throws ProblemException 422 where its bytes are not what its name says, or are no part of a plane
   */
  async keep(accountId: string, name: string, deflated: Buffer): Promise<void> {
    const bad = (detail: string) =>
      new ProblemException(422, 'plane-unreadable', 'Not a part of what was painted', `${detail} Nothing was kept; it is sent again from this browser.`)
    const bytes = await inflatedPart(deflated)
    if (!bytes) throw bad('A part of what was painted came spoilt.')
    if (createHash('sha256').update(bytes).digest('hex') !== name) throw bad('A part of what was painted is not what its name says.')
    if (!isPlanePart(bytes) && !isInkPart(bytes)) throw bad('What was sent is no part of anything painted.')
    const path = this.path(accountId, name)
    if (await this.store.has(path)) return
    const part = this.store.scratch()
    try {
      const file = await open(part, 'wx')
      try {
        await file.writeFile(deflated)
      } finally {
        await file.close()
      }
      await mkdir(dirname(path), { recursive: true })
      await this.store.keep(part, path)
    } finally {
      await rm(part, { force: true })
    }
  }

  /** Those of some parts that are not there. */
  async missing(accountId: string, names: Iterable<string>): Promise<string[]> {
    const open = [...new Set(names)]
    const gone: string[] = []
    const look = async () => {
      for (let name = open.pop(); name !== undefined; name = open.pop()) if (!(await this.store.has(this.path(accountId, name)))) gone.push(name)
    }
    await Promise.all(Array.from({ length: SIDE_BY_SIDE }, look))
    return gone.sort()
  }

  /** Where a part lies; it may not be there. */
  fileOf(accountId: string, name: string): string {
    return this.path(accountId, name)
  }

  /**
   * Makes sure that all that a document names of what was painted is there.
   * @throws ProblemException 422 `plane-parts-missing` with `missing`: their names, as far down as could be read
   */
  async check(accountId: string, document: Document): Promise<void> {
    const missing: string[] = []
    for (const { index, channels } of planesOf(document)) {
      const known = `${accountId}/${index}/${channels}`
      if (this.whole.has(known)) continue
      const gone = await this.missingOf(accountId, index, channels)
      if (gone.length) missing.push(...gone)
      else {
        if (this.whole.size > KNOWN) this.whole.clear()
        this.whole.add(known)
      }
    }
    for (const root of inksOf(document)) {
      const known = `${accountId}/${root}/ink`
      if (this.whole.has(known)) continue
      const names = await this.inkOf(accountId, root)
      const gone = names ? await this.missing(accountId, names) : [root]
      if (gone.length) missing.push(...gone)
      else this.whole.add(known)
    }
    if (missing.length === 0) return
    throw new ProblemException(
      422,
      'plane-parts-missing',
      'Painted parts are missing',
      'Parts of what was painted have not reached the server yet. Nothing is lost: they are in the browser in which they were painted, and are sent from there.',
      { missing: [...new Set(missing)] },
    )
  }

  /** The chunks of ink; null where its root is not there. */
  private async inkOf(accountId: string, root: string): Promise<string[] | null> {
    const bytes = await readPart(this.folder(accountId), root)
    return bytes && parseInkRoot(bytes)
  }

  private async missingOf(accountId: string, index: string, channels: 1 | 4): Promise<string[]> {
    const names = await this.namesOf(accountId, index, channels)
    if (!names) return [index]
    return names.unread.length ? names.unread : this.missing(accountId, names.tiles)
  }

  /** What a plane is made of; null where its root is not there. Pages that are not there are `unread`. */
  private async namesOf(accountId: string, index: string, channels: 1 | 4 | null): Promise<{ pages: string[]; tiles: Set<string>; unread: string[] } | null> {
    const root = await readPart(this.folder(accountId), index)
    if (!root) return null
    const parsed = parseRoot(root)
    if (channels !== null && parsed.channels !== channels)
      throw new QuillError('artwork-invalid', 'What was painted has other channels than the artwork says. Nothing was saved.')
    const tiles = new Set<string>()
    const unread: string[] = []
    for (const { name, at } of parsed.pages) {
      const page = await readPart(this.folder(accountId), name)
      if (!page) unread.push(name)
      else for (const tile of tileNames({ channels: parsed.channels, pages: new Map([[at, parsePage(page, parsed.channels)]]) })) tiles.add(tile)
    }
    return { pages: parsed.pages.map((p) => p.name), tiles, unread }
  }

  /**
   * Removes parts that no kept document names and that are older than a day. @returns how many
   * @param before milliseconds since 1970: only what is older goes
   */
  sweep(before = Date.now() - SPARED): Promise<number> {
    this.sweeping ??= this.sweepAll(before).finally(() => (this.sweeping = null))
    return this.sweeping
  }

  private async sweepAll(before: number): Promise<number> {
    let gone = 0
    for (const accountId of await readdir(this.store.planesRoot).catch(() => [])) {
      const named = new Set<string>()
      // one at a time: documents may be large
      const kept = await Artwork.findAll({ where: { accountId }, attributes: ['id'] })
      for (const { id } of kept) await this.addNames(accountId, (await Artwork.findByPk(id, { attributes: ['document'] }))?.document, named)
      for (const { id } of await Render.findAll({ where: { accountId, state: ['waiting', 'running'] }, attributes: ['id'] }))
        await this.addNames(accountId, (await Render.findByPk(id, { attributes: ['document'] }))?.document, named)
      for (const { id } of await States.findAll({ where: { accountId }, attributes: ['id'] }))
        await this.addNames(accountId, (await States.findByPk(id, { attributes: ['document'] }))?.document, named)
      for (const folder of await readdir(this.folder(accountId)).catch(() => [])) {
        for (const name of await readdir(join(this.folder(accountId), folder))) {
          const path = join(this.folder(accountId), folder, name)
          if (named.has(name) || (await stat(path)).mtimeMs >= before) continue
          await rm(path, { force: true })
          gone++
        }
      }
    }
    // what was whole may have been given up meanwhile
    if (gone) this.whole.clear()
    return gone
  }

  private async addNames(accountId: string, json: string | undefined, named: Set<string>): Promise<void> {
    if (!json) return
    const document = JSON.parse(json) as Document
    for (const root of inksOf(document)) {
      named.add(root)
      for (const name of (await this.inkOf(accountId, root).catch(() => null)) ?? []) named.add(name)
    }
    for (const { index } of planesOf(document)) {
      named.add(index)
      const names = await this.namesOf(accountId, index, null).catch(() => null)
      for (const name of [...(names?.pages ?? []), ...(names?.tiles ?? [])]) named.add(name)
    }
  }
}
