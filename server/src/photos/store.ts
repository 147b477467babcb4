import { mkdirSync } from 'node:fs'
import { open, rename, rm, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'

/**
 * Files named by content under one data folder. A file is written under a temporary name, made safe on the disk, and
 * renamed; rows refer to it after.
 */
export class Store {
  private readonly root: string

  constructor(root: string) {
    this.root = root
    for (const d of ['photos', 'renders', 'thumbnails', 'scratch']) mkdirSync(join(root, d), { recursive: true })
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
  render(id: string, format: string): string {
    return join(this.root, 'renders', `${id}.${format === 'jpeg' ? 'jpg' : format}`)
  }
  thumbnail(artwork: string, revision: number): string {
    return join(this.root, 'thumbnails', `${artwork}.${revision}.png`)
  }
  /** A fresh path for passing use. */
  scratch(): string {
    return join(this.root, 'scratch', randomUUID())
  }

  async has(path: string): Promise<boolean> {
    return stat(path).then(
      () => true,
      () => false,
    )
  }

  /** Writes a small file whole or not at all. */
  async write(path: string, bytes: Uint8Array): Promise<void> {
    const part = this.scratch()
    const file = await open(part, 'w')
    try {
      await file.writeFile(bytes)
      await file.sync()
      await file.close()
      await rename(part, path)
    } catch (error) {
      await file.close().catch(() => undefined)
      await rm(part, { force: true })
      throw error
    }
  }
}
