import { open, type FileHandle } from 'node:fs/promises'
import { promisify } from 'node:util'
import { deflate, inflate } from 'node:zlib'
import { levelSize, QuillError, SOURCE_TILE, unreadable, type SourceInfo, type SourceReader } from '@nimble-quill/core'
import { readPart } from '../planes/parts.ts'

const deflated = promisify(deflate)
const inflated = promisify(inflate)

const MAGIC = 0x4e515031 // "NQP1"

interface Index {
  info: SourceInfo
  /** Per level, row by row: where each tile lies and how long it is. */
  tiles: [offset: number, length: number][][]
}

/** Tiles that are deflated at once: so many threads Node has for it. */
const AT_ONCE = 4

/** Writes a pyramid: deflated tiles one after the other, then their index, then its length. */
export class PyramidWriter {
  private at = 0
  /** Tiles on their way into the file, in its order; each waits for the one before. */
  private readonly coming: Promise<void>[] = []
  private readonly index: Index
  private readonly file: FileHandle

  private constructor(file: FileHandle, info: SourceInfo) {
    this.file = file
    this.index = { info, tiles: Array.from({ length: info.levels }, () => []) }
  }

  static async create(path: string, info: SourceInfo): Promise<PyramidWriter> {
    return new PyramidWriter(await open(path, 'w'), info)
  }

  /**
   * Takes a tile; waits where many are still on their way.
   * @param payload its samples, which are not changed any more
   * @throws what went wrong with this tile or an earlier one
   */
  async tile(level: number, tx: number, ty: number, payload: Uint8Array): Promise<void> {
    if (this.coming.length >= AT_ONCE) await this.coming.shift()
    const before = this.coming.at(-1)
    const placed = deflated(payload, { level: 1 }).then(async (bytes) => {
      await before
      const across = Math.ceil(levelSize(this.index.info, level).w / SOURCE_TILE)
      this.index.tiles[level]![ty * across + tx] = [this.at, bytes.length]
      await this.file.write(bytes, 0, bytes.length, this.at)
      this.at += bytes.length
    })
    // told when it is waited for
    placed.catch(() => undefined)
    this.coming.push(placed)
  }

  /** Writes the index and makes the file safe on the disk. */
  async finish(): Promise<void> {
    await Promise.all(this.coming)
    const json = Buffer.from(JSON.stringify(this.index))
    const end = Buffer.alloc(8)
    end.writeUInt32LE(json.length, 0)
    end.writeUInt32LE(MAGIC, 4)
    await this.file.write(Buffer.concat([json, end]), 0, json.length + 8, this.at)
    await this.file.sync()
    await this.file.close()
  }

  async abandon(): Promise<void> {
    await Promise.allSettled(this.coming)
    await this.file.close().catch(() => undefined)
  }
}

/** A pyramid file opened for reading. */
export class PyramidFile {
  private readonly file: FileHandle
  private readonly index: Index

  private constructor(file: FileHandle, index: Index) {
    this.file = file
    this.index = index
  }

  /** Throws QuillError `source-unreadable` for a file that is not a whole pyramid. */
  static async open(path: string): Promise<PyramidFile> {
    const file = await open(path, 'r')
    try {
      const { size } = await file.stat()
      const end = Buffer.alloc(8)
      await file.read(end, 0, 8, Math.max(0, size - 8))
      if (end.readUInt32LE(4) !== MAGIC)
        throw new QuillError('source-unreadable', 'The stored pixels of this photo are damaged. The artwork is safe; add the photo again.')
      const json = Buffer.alloc(end.readUInt32LE(0))
      await file.read(json, 0, json.length, size - 8 - json.length)
      return new PyramidFile(file, JSON.parse(json.toString()) as Index)
    } catch (error) {
      await file.close()
      throw error
    }
  }

  get info(): SourceInfo {
    return this.index.info
  }

  /** A tile as it lies in the file: zlib-deflated. */
  async raw(level: number, tx: number, ty: number): Promise<Buffer | null> {
    if (level < 0 || level >= this.info.levels) return null
    const across = Math.ceil(levelSize(this.info, level).w / SOURCE_TILE)
    const at = tx >= 0 && ty >= 0 && tx < across ? this.index.tiles[level]?.[ty * across + tx] : undefined
    if (!at) return null
    const bytes = Buffer.alloc(at[1])
    await this.file.read(bytes, 0, at[1], at[0])
    return bytes
  }

  async tile(level: number, tx: number, ty: number): Promise<Uint8Array> {
    const bytes = await this.raw(level, tx, ty)
    if (!bytes) throw new QuillError('source-unreadable', 'A part of the photo is missing. The artwork is safe; add the photo again.')
    return inflated(bytes)
  }

  close(): Promise<void> {
    return this.file.close()
  }
}

/** Reads photos for the engine from pyramid files. */
export class PyramidFiles implements SourceReader {
  private readonly open = new Map<string, Promise<PyramidFile>>()
  private closed = false
  private readonly pathOf: (asset: string) => string | null
  private readonly planes: string | null

  /**
   * @param pathOf the pyramid file of an asset, or null where there is none
   * @param planes the folder of what was painted
   */
  constructor(pathOf: (asset: string) => string | null, planes: string | null = null) {
    this.pathOf = pathOf
    this.planes = planes
  }

  private file(asset: string): Promise<PyramidFile> {
    // a part that is still asked for when all was called off would leave its file open
    if (this.closed) return Promise.reject(new QuillError('cancelled', 'Stopped.'))
    let file = this.open.get(asset)
    if (!file) {
      const path = this.pathOf(asset)
      const missing = () =>
        new QuillError(
          'missing-photo',
          'A photo of this artwork is no longer there. The artwork is safe; add the photo again, or give the layer another source.',
          { asset },
        )
      file = path
        ? PyramidFile.open(path).catch((error: NodeJS.ErrnoException) => {
            throw error.code === 'ENOENT' ? missing() : error
          })
        : Promise.reject(missing())
      this.open.set(asset, file)
      file.catch(() => this.open.delete(asset))
    }
    return file
  }

  async info(asset: string): Promise<SourceInfo> {
    return (await this.file(asset)).info
  }

  async tile(asset: string, level: number, tx: number, ty: number): Promise<Uint8Array> {
    return (await this.file(asset)).tile(level, tx, ty)
  }

  async blob(name: string): Promise<Uint8Array> {
    const bytes = this.planes === null ? null : await readPart(this.planes, name)
    if (!bytes) throw unreadable('a part of it is missing')
    return bytes
  }

  async digest(bytes: Uint8Array): Promise<string> {
    // on a thread of its own
    return Buffer.from(await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)).toString('hex')
  }

  /** Closes what is open; nothing is read any more. */
  async close(): Promise<void> {
    this.closed = true
    for (const file of this.open.values()) await file.then((f) => f.close()).catch(() => undefined)
    this.open.clear()
  }
}
