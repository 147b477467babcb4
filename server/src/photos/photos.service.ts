import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { open, rename, rm } from 'node:fs/promises'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { Inject, Injectable, type OnModuleDestroy } from '@nestjs/common'
import type { Photo as PhotoAnswer } from '@nimble-quill/contracts'
import { QuillError } from '@nimble-quill/core'
import { Photo } from '../database/models.ts'
import { notFound } from '../problems/problem.ts'
import { PictureThreads } from '../workers/picture-threads.ts'
import { MAX_BYTES, PyramidFile, smallCopy } from './decoding.ts'
import { STORE, THREADS } from './tokens.ts'
import type { Store } from './store.ts'

export const SMALL_SIZES = [320, 1280] as const

export function photoAnswer(p: Photo): PhotoAnswer {
  return {
    id: p.id,
    name: p.name,
    asset: p.asset,
    width: p.width,
    height: p.height,
    depth: p.depth as 8 | 16,
    alpha: p.alpha,
    bytes: p.bytes,
    createdAt: p.createdAt.toISOString(),
  }
}

/** Photos: taken in as a stream, decoded once, kept by content. */
@Injectable()
export class PhotosService implements OnModuleDestroy {
  private readonly store: Store
  private readonly threads: PictureThreads
  private readonly pyramids = new Map<string, Promise<PyramidFile>>()
  private readonly owned = new Map<string, number>()

  constructor(@Inject(STORE) store: Store, @Inject(THREADS) threads: PictureThreads) {
    this.store = store
    this.threads = threads
  }

  list(accountId: string): Promise<Photo[]> {
    return Photo.findAll({ where: { accountId, deletedAt: null }, order: [['createdAt', 'DESC']] })
  }

  async find(accountId: string, id: string, deletedToo = false): Promise<Photo> {
    const photo = await Photo.findOne({ where: { id, accountId, ...(deletedToo ? {} : { deletedAt: null }) } })
    if (!photo) throw notFound('photo')
    return photo
  }

  /**
   * Takes a photo in. A file the account already has is not added twice.
   * @throws QuillError `photo-empty`, `photo-not-a-picture`, `photo-spoilt`, `photo-too-large`
   */
  async add(accountId: string, name: string, body: Readable): Promise<Photo> {
    const part = this.store.scratch()
    const hash = createHash('sha256')
    let bytes = 0
    try {
      await pipeline(
        body,
        async function* (chunks) {
          for await (const chunk of chunks as AsyncIterable<Buffer>) {
            bytes += chunk.length
            if (bytes > MAX_BYTES)
              throw new QuillError(
                'photo-too-large',
                `The file has more than ${MAX_BYTES / 2 ** 20} MB; photos may have up to that. Nothing was added; save it smaller or as JPEG.`,
              )
            hash.update(chunk)
            yield chunk
          }
        },
        createWriteStream(part),
      )
      const asset = hash.digest('hex')
      const known = await Photo.findOne({ where: { accountId, asset, deletedAt: null } })
      if (known) return known
      const pyramid = `${part}.pyramid`
      try {
        const facts = await this.threads.start('cut', { path: part, out: pyramid, scratch: part }).answer
        for (const size of SMALL_SIZES) await this.store.write(this.store.small(asset, size), await smallCopy(part, size))
        const file = await open(part, 'r')
        await file.sync()
        await file.close()
        await rename(pyramid, this.store.pyramid(asset))
        await rename(part, this.store.original(asset))
        return await Photo.create({
          accountId,
          name: name.slice(0, 255),
          asset,
          width: facts.width,
          height: facts.height,
          depth: facts.depth,
          alpha: facts.channels === 4,
          bytes,
        })
      } finally {
        await rm(pyramid, { force: true })
      }
    } finally {
      await rm(part, { force: true })
    }
  }

  async remove(accountId: string, id: string): Promise<void> {
    const photo = await this.find(accountId, id)
    await photo.update({ deletedAt: new Date() })
  }

  async restore(accountId: string, id: string): Promise<Photo> {
    const photo = await this.find(accountId, id, true)
    return photo.update({ deletedAt: null })
  }

  /** Whether the account ever added a file with this content; remembered for a minute. */
  async owns(accountId: string, asset: string): Promise<boolean> {
    const key = `${accountId}/${asset}`
    const until = this.owned.get(key)
    if (until !== undefined && until > Date.now()) return true
    if ((await Photo.count({ where: { accountId, asset } })) === 0) return false
    if (this.owned.size > 1000) this.owned.clear()
    this.owned.set(key, Date.now() + 60_000)
    return true
  }

  /** The pixel pyramid of an asset the account owns. */
  async pyramid(accountId: string, asset: string): Promise<PyramidFile> {
    if (!/^[0-9a-f]{64}$/.test(asset) || !(await this.owns(accountId, asset))) throw notFound('photo')
    let file = this.pyramids.get(asset)
    if (!file) {
      file = PyramidFile.open(this.store.pyramid(asset))
      this.pyramids.set(asset, file)
      file.catch(() => this.pyramids.delete(asset))
      // files are closed again when many are open
      if (this.pyramids.size > 64) {
        const [oldest, opened] = this.pyramids.entries().next().value!
        this.pyramids.delete(oldest)
        setTimeout(() => void opened.then((f) => f.close()).catch(() => undefined), 30_000).unref()
      }
    }
    return file
  }

  async onModuleDestroy(): Promise<void> {
    await this.threads.close()
    for (const f of this.pyramids.values()) await f.then((p) => p.close()).catch(() => undefined)
  }
}
