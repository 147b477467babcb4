import { randomBytes } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import type { FileHandle } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PyramidFile, PyramidFiles, PyramidWriter } from './pyramid-file.ts'

const folder = mkdtempSync(join(tmpdir(), 'quill-pyramid-'))
afterAll(() => rmSync(folder, { recursive: true }))
const info = { width: 1400, height: 1030, channels: 3, depth: 8, levels: 2 } as const
const tilesOf = (level: number, side: number) => Array.from({ length: side ** 2 }, (_, i) => [level, i % side, Math.floor(i / side)] as const)
const places = [...tilesOf(0, 3), ...tilesOf(1, 2)]

test('tiles come back as they were given, whichever of them is deflated first', async () => {
  const path = join(folder, 'kept')
  const writer = await PyramidWriter.create(path, info)
  // what comes first takes longest
  const tiles = places.map((_, i) => (i % 4 === 0 ? randomBytes(3 * 2 ** 20) : Buffer.alloc(64, i)))
  for (const [i, [level, tx, ty]] of places.entries()) await writer.tile(level, tx, ty, tiles[i]!)
  await writer.finish()
  const file = await PyramidFile.open(path)
  expect(file.info).toEqual(info)
  for (const [i, [level, tx, ty]] of places.entries()) expect(Buffer.compare(Buffer.from(await file.tile(level, tx, ty)), tiles[i]!)).toBe(0)
  await file.close()
})

/** A writer whose next write finds the disk full. */
async function onFullDisk(name: string): Promise<PyramidWriter> {
  const writer = await PyramidWriter.create(join(folder, name), info)
  jest.spyOn((writer as unknown as { file: FileHandle }).file, 'write').mockRejectedValueOnce(new Error('the disk is full'))
  return writer
}

test('a tile that cannot be written is told by a later one', async () => {
  const writer = await onFullDisk('broken')
  const all = async () => {
    for (const [level, tx, ty] of places) await writer.tile(level, tx, ty, Buffer.alloc(64))
  }
  await expect(all()).rejects.toThrow('the disk is full')
  await writer.abandon()
})

test('and at the end, where none comes later: no index says that it is whole', async () => {
  const writer = await onFullDisk('broken at the end')
  await writer.tile(0, 0, 0, Buffer.alloc(64))
  await expect(writer.finish()).rejects.toThrow('the disk is full')
  await writer.abandon()
  await expect(PyramidFile.open(join(folder, 'broken at the end'))).rejects.toThrow()
})

test('once closed, nothing is opened any more', async () => {
  let asked = 0
  const files = new PyramidFiles(() => {
    asked++
    return join(folder, 'kept')
  })
  expect((await files.info('a')).width).toBe(1400)
  await files.close()
  await expect(files.tile('a', 0, 0, 0)).rejects.toMatchObject({ code: 'cancelled' })
  expect(asked).toBe(1)
})
