import { createHash } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { rm } from 'node:fs/promises'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { Inject, Injectable, type OnApplicationShutdown, type OnModuleDestroy } from '@nestjs/common'
import type { Photo as PhotoAnswer } from '@nimble-quill/contracts'
import { QuillError } from '@nimble-quill/core'
import { UniqueConstraintError } from 'sequelize'
import { Photo } from '../database/models.ts'
import { notFound, ProblemException } from '../problems/problem.ts'
import type { Pool, Started } from '../workers/pool.ts'
import { SharedWork } from '../workers/shared-work.ts'
import { MAX_BYTES, PyramidFile, type PhotoFacts } from './decoding.ts'
import { DECODING, STORE } from './tokens.ts'
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
export class PhotosService implements OnApplicationShutdown, OnModuleDestroy {
  private readonly store: Store
  private readonly decoding: Pool
  /** Files that are being decoded, by content. */
  private readonly cutting = new SharedWork<PhotoFacts>()
  private readonly pyramids = new Map<string, Promise<PyramidFile>>()
  private readonly owned = new Map<string, number>()

  constructor(@Inject(STORE) store: Store, @Inject(DECODING) decoding: Pool) {
    this.store = store
    this.decoding = decoding
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
   * Takes a photo in. A file the account already has is not added twice; one that it deleted is back, under the new name.
   * @param left set when who sends it does not wait any longer
   * @throws QuillError `photo-empty`, `photo-not-a-picture`, `photo-spoilt`, `photo-too-large`, `cancelled`
   */
  async add(accountId: string, name: string, body: Readable, left?: AbortSignal): Promise<Photo> {
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
      const known = await this.again(accountId, asset, name)
      if (known) return known
      const facts = await this.cutting.join(asset, () => this.cut(part, asset), left)
      await this.store.keep(part, this.store.original(asset))
      const { width, height, depth, channels } = facts
      try {
        return await Photo.create({ accountId, name: name.slice(0, 255), asset, width, height, depth, alpha: channels === 4, bytes })
      } catch (error) {
        // the same file by two requests at once
        const first = error instanceof UniqueConstraintError ? await this.again(accountId, asset, name) : null
        if (!first) throw error
        return first
      }
    } finally {
      await rm(part, { force: true })
    }
  }

  /** A photo that the account has, or had. */
  private async again(accountId: string, asset: string, name: string): Promise<Photo | null> {
    const known = await Photo.findOne({ where: { accountId, asset } })
    if (!known || known.deletedAt === null) return known
    return known.update({ deletedAt: null, name: name.slice(0, 255), createdAt: new Date() })
  }

  /** Decodes a file into its pyramid and small copies, and puts them in their places. */
  private cut(path: string, asset: string): Started<PhotoFacts> {
    const scratch = this.store.scratch()
    const pyramid = `${scratch}.pyramid`
    const small = Object.fromEntries(SMALL_SIZES.map((size) => [size, `${scratch}.${size}.webp`]))
    const { answer, cancel } = this.decoding.start('cut', { path, out: pyramid, scratch, small })
    const placed = async () => {
      try {
        const facts = await answer
        for (const size of SMALL_SIZES) await this.store.keep(small[size]!, this.store.small(asset, size))
        await this.store.keep(pyramid, this.store.pyramid(asset))
        return facts
      } catch (error) {
        if ((error as { code?: string }).code !== 'too-slow') throw error
        throw new ProblemException(
          422,
          'photo-too-slow',
          'Too slow',
          'Decoding this picture took too long and was given up. Nothing was added; save it smaller or as JPEG.',
        )
      } finally {
        for (const file of [pyramid, `${scratch}.v`, ...Object.values(small)]) await rm(file, { force: true })
      }
    }
    return { answer: placed(), cancel }
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
    await this.decoding.close()
    for (const f of this.pyramids.values()) await f.then((p) => p.close()).catch(() => undefined)
  }

  /** When no request is answered any more. */
  async onApplicationShutdown(): Promise<void> {
    await this.store.close()
  }
}
