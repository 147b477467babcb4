import { execFile } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import sharp from 'sharp'
import { stepById, steps } from '../steps/registry.ts'
import { dice } from '../testing/pictures.ts'
import type { Look } from '../testing/looks-walk.ts'

// A technique looks the same on a large photo and on a small one: 18 megapixels against 1.1 of the same picture, both results reduced to a sixteenth of the larger
// one's sides. Every step that has lengths, at its usual ones and at three times as long.

const [W, H] = [5184, 3456]
/** Marks finer than this on the small photo have no room there; the interface says so. */
const ROOM = 3.5

let found: Look[]
beforeAll(async () => {
  const folder = mkdtempSync(join(tmpdir(), 'quill-looks-'))
  const photo = join(folder, 'photo.rgb')
  const large = await sharp(join(__dirname, '../../../demo/photos/boathouse.jpg')).resize(W, H, { kernel: 'lanczos3', fit: 'fill' }).raw().toBuffer()
  // a large photo has its noise pixel by pixel
  const next = dice(1)
  const noise = Int8Array.from({ length: 65521 }, () => Math.round(7 * (next() + next() - 1)))
  for (let i = 0; i < large.length; i++) large[i] = Math.max(0, Math.min(255, large[i]! + noise[i % noise.length]!))
  writeFileSync(photo, large)
  const { stdout } = await promisify(execFile)(process.execPath, [join(__dirname, '../../dist/testing/looks-walk.js'), photo, String(W), String(H)], {
    maxBuffer: 2 ** 26,
  })
  rmSync(folder, { recursive: true })
  found = JSON.parse(stdout) as Look[]
}, 1_800_000)

/** What is made of strokes, grain or bumps, whose places are dealt anew at each size: its tone and texture are compared. */
const dealt = new Set([
  'hatching',
  'add-grain',
  'paper-tooth',
  'surface-relief',
  'broad-brush',
  'flowing-oil',
  'coloured-pencil',
  'charcoal',
  'pastel',
  'settling',
])
/** What is made of outlines round flat shapes is held to what lines are: which of two neighbours a small piece goes over to is decided by little. */
const outlined = new Set(['paper-shapes', 'wash'])
const withLengths = steps.filter((s) => Object.values(s.params).some((p) => p.type === 'length')).map((s) => s.id)

test('every step with lengths was looked at', () => {
  expect([...new Set(found.map((f) => f.id))].sort()).toEqual([...withLengths].sort())
})

test.each(withLengths)('%s looks the same at 18 and at 1.1 megapixels', (id) => {
  const looks = found.filter((f) => f.id === id && (f.mark === null || f.mark >= ROOM || !dealt.has(id)))
  for (const { times, values, ssim, tones, energies } of looks) {
    const said = `${JSON.stringify(values)}, ${times} times the usual length: similarity ${ssim.toFixed(3)}, tones ${tones.join(' and ')}, texture ${energies.join(' and ')}`
    const tone = Math.abs(tones[0] / tones[1] - 1)
    const texture = Math.abs(energies[0] / energies[1] - 1)
    const cover = Math.abs((255 - tones[0]) / (255 - tones[1]) - 1)
    // where a straight cut turns is decided by little, within what it may stray; cuts round every bend are held to their places
    const strays = id === 'paper-shapes' && values['straight'] !== 0
    if (dealt.has(id) || strays) expect({ said, holds: tone <= 0.03 && texture <= 0.1 }).toEqual({ said, holds: true })
    else if (stepById(id).group === 'line' || outlined.has(id)) expect({ said, holds: ssim >= 0.92 && cover <= 0.1 }).toEqual({ said, holds: true })
    else expect({ said, holds: ssim >= 0.97 }).toEqual({ said, holds: true })
  }
})

test('strokes, grain and bumps are compared where the small photo has room for them', () => {
  for (const id of dealt) expect(found.filter((f) => f.id === id && (f.mark === null || f.mark >= ROOM)).length).toBeGreaterThan(0)
})
