import sharp from 'sharp'
import { artworkFromPhoto } from '../artwork/load.ts'
import { newLayer, newStep } from '../artwork/layers.ts'
import { instantiate } from '../artwork/recipe.ts'
import { loadKernels } from '../kernels/load-node.ts'
import { MemorySources } from '../testing/memory-source.ts'
import { compute, newTestEngine } from '../testing/pictures.ts'
import { graphite } from './graphite.ts'

const photo = `${__dirname}/../../../demo/photos/keeper-portrait.jpg`
const asset = '9'.repeat(64)

async function load(width: number): Promise<{ bytes: Buffer; w: number; h: number }> {
  const { data, info } = await sharp(photo).resize(width).raw().toBuffer({ resolveWithObject: true })
  return { bytes: data, w: info.width, h: info.height }
}

test('the chain of the sketch equals the same chain put together from libvips operations', async () => {
  const { bytes, w, h } = await load(400)
  const raw = { raw: { width: w, height: h, channels: 3 as const } }
  // each operation by itself, since sharp puts those of one pipeline into an order of its own.
  // BT.709 luma → negative → blur → colour dodge over the luma → levels, in libvips; floats where it keeps them
  const luma = await sharp(bytes, raw)
    .recomb([
      [0.2126, 0.7152, 0.0722],
      [0.2126, 0.7152, 0.0722],
      [0.2126, 0.7152, 0.0722],
    ])
    .raw()
    .toBuffer()
  const negative = await sharp(await sharp(luma, raw).negate().raw().toBuffer(), raw)
    .blur({ sigma: 3, precision: 'float', minAmplitude: 0.002 })
    .png()
    .toBuffer()
  const dodged = await sharp(luma, raw)
    .composite([{ input: negative, blend: 'colour-dodge' }])
    .png()
    .toBuffer()
  const vips = await sharp(await sharp(dodged).removeAlpha().png().toBuffer())
    .linear(255 / 215, (-40 * 255) / 215)
    .removeAlpha()
    .raw()
    .toBuffer()
  expect(vips.length).toBe(w * h * 3)

  const kernels = await loadKernels()
  const sources = new MemorySources()
  await sources.add(kernels, asset, { width: w, height: h, channels: 3, depth: 8 }, bytes)
  const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
  a.layers = [
    { ...a.layers[0]!, id: 'base', chain: [newStep('black-white', { by: 'bt709' })] },
    {
      ...newLayer('lines', { type: 'live', layer: 'base' }, [newStep('invert'), newStep('gaussian-blur', { sigma: { value: 3, unit: 'px' } })]),
      blend: 'color-dodge',
    },
    newLayer('values', { type: 'below' }, [newStep('levels', { black: 40 })]),
  ]
  const { pixels } = await compute(newTestEngine(kernels, sources), a)
  // libvips rounds to bytes after every operation, and dodging magnifies that by 255/blurred luma: weighed back by luma
  let sum = 0
  let worst = 0
  for (let i = 0; i < w * h; i++) {
    const d = (Math.abs(pixels[i * 4]! / 257 - vips[i * 3]!) * luma[i * 3]!) / 255
    sum += d
    worst = Math.max(worst, d)
  }
  expect(sum / (w * h)).toBeLessThan(0.6)
  // half a step of the luma, 1.5 of the blur (see its test), half of the dodge, stretched by the levels, half of the result
  expect(worst).toBeLessThan(((0.5 + 1.5 + 0.5) * 255) / 215 + 0.5)
})

test('the recipe looks the same on a small and a four times larger copy of one photo', async () => {
  const kernels = await loadKernels()
  const render = async (width: number) => {
    const { bytes, w, h } = await load(width)
    const sources = new MemorySources()
    await sources.add(kernels, asset, { width: w, height: h, channels: 3, depth: 8 }, bytes)
    const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
    const { layers, use } = instantiate(graphite, a.layers[0]!.source)
    const { pixels } = await compute(newTestEngine(kernels, sources), { ...a, layers, recipes: [use] })
    const grey = Buffer.from(Uint8Array.from({ length: w * h }, (_, i) => pixels[i * 4]! / 257))
    return sharp(grey, { raw: { width: w, height: h, channels: 1 } })
      .resize(96, 120, { fit: 'fill', kernel: 'cubic' })
      .extractChannel(0)
      .raw()
      .toBuffer()
  }
  const small = await render(384)
  const large = await render(1536)
  let sum = 0
  for (let i = 0; i < small.length; i++) sum += Math.abs(small[i]! - large[i]!)
  expect(sum / small.length).toBeLessThan(12)
})

test('every control changes the drawing the way its name says', async () => {
  const { bytes, w, h } = await load(320)
  const kernels = await loadKernels()
  const sources = new MemorySources()
  await sources.add(kernels, asset, { width: w, height: h, channels: 3, depth: 8 }, bytes)
  const mean = async (values: Record<string, number | string>) => {
    const a = artworkFromPhoto({ asset, width: w, height: h, title: 't' })
    const { layers, use } = instantiate(graphite, a.layers[0]!.source, values)
    const { pixels } = await compute(newTestEngine(kernels, sources), { ...a, layers, recipes: [use] })
    let sum = 0
    let dark = 65535
    for (let i = 0; i < pixels.length; i += 4) {
      sum += pixels[i]!
      dark = Math.min(dark, pixels[i]!)
    }
    return { mean: sum / (w * h), dark }
  }
  const plain = await mean({})
  expect((await mean({ pencil: 0 })).mean).toBeGreaterThan(plain.mean)
  expect((await mean({ pencil: 100 })).mean).toBeLessThan(plain.mean)
  expect((await mean({ darkness: 100 })).mean).toBeLessThan(plain.mean)
  expect((await mean({ lead: 0 })).dark).toBeGreaterThan((await mean({ lead: 100 })).dark + 8000)
  // the red hat: drawn dark by an orthochromatic mix, light behind a red filter
  expect((await mean({ mix: 'orthochromatic' })).mean).not.toBeCloseTo(plain.mean, -1)
})
