import { readFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import { artworkFromPhoto, constantPixel, emptyPlane, indexOf, newLayer, newStep, QuillError, withEntries } from '@nimble-quill/core'
import { Crew } from '../../core/src/kernels/crew.ts'
import { hashFile } from '@nimble-quill/server/decoding'
import sharp from 'sharp'
import { main } from './main.ts'

const photo = join(__dirname, '../../demo/photos/heron-on-post.jpg')
const folder = mkdtempSync(join(tmpdir(), 'quill-cli-'))
const out = (name: string) => join(folder, name)
let said = ''
beforeEach(() => {
  said = ''
  for (const stream of ['log', 'error'] as const) jest.spyOn(console, stream).mockImplementation((...t: unknown[]) => void (said += `${t.join(' ')}\n`))
})
afterEach(() => jest.restoreAllMocks())

const pixels = async (name: string) => sharp(out(name)).ensureAlpha().raw().toBuffer()

test('step by step, by recipe and by artwork file', async () => {
  expect(await main([photo, '--step', 'black-white', 'by=bt709', '--step', 'levels', 'midtone=0.8', '--out', out('steps.png')])).toBe(0)
  const artwork = artworkFromPhoto({ asset: await hashFile(photo), width: 1920, height: 1280, title: 'x' })
  artwork.layers[0]!.chain = [newStep('black-white', { by: 'bt709' }), newStep('levels', { midtone: 0.8 })]
  writeFileSync(out('a.json'), JSON.stringify(artwork))
  expect(await main([photo, '--artwork', out('a.json'), '--out', out('artwork.png')])).toBe(0)
  expect((await pixels('steps.png')).equals(await pixels('artwork.png'))).toBe(true)
  expect(await main([photo, '--recipe', 'graphite', '--set', 'pencil=80', 'mix=orthochromatic', '--scale', '1/4', '--ppi', '150', '--out', out('g.jpg')])).toBe(
    0,
  )
  expect(await sharp(out('g.jpg')).metadata()).toMatchObject({ width: 480, height: 320, density: 150, format: 'jpeg' })
  expect(await main([photo, '--step', 'invert', '--long-side', '300', '--out', out('small.png')])).toBe(0)
  expect((await sharp(out('small.png')).metadata()).width).toBe(300)
  expect(await main([photo, '--step', 'invert', '--scale', '2', '--out', out('double.jpg')])).toBe(0)
  expect(await sharp(out('double.jpg')).metadata()).toMatchObject({ width: 3840, height: 2560 })
})

test('a step that goes by another picture, by its file; an artwork’s pictures by --picture', async () => {
  const paper = join(__dirname, '../../demo/papers/canvas-weave.jpg')
  expect(await main([photo, '--step', 'surface-relief', 'kind=picture', `picture=${paper}`, 'width=400px', '--out', out('relief.png')])).toBe(0)
  const { width, height } = await sharp(paper).metadata()
  const artwork = artworkFromPhoto({ asset: await hashFile(photo), width: 1920, height: 1280, title: 'x' })
  const picture = { asset: await hashFile(paper), width, height }
  artwork.layers[0]!.chain = [newStep('surface-relief', { kind: 'picture', picture, width: { value: 400, unit: 'px' } })]
  writeFileSync(out('relief.json'), JSON.stringify(artwork))
  expect(await main([photo, '--artwork', out('relief.json'), '--picture', paper, '--out', out('again.png')])).toBe(0)
  expect((await pixels('relief.png')).equals(await pixels('again.png'))).toBe(true)
  expect((await pixels('relief.png')).equals(await sharp(photo).ensureAlpha().raw().toBuffer())).toBe(false)
  // without it
  expect(await main([photo, '--artwork', out('relief.json'), '--out', out('never.png')])).toBe(1)
  expect(said).toContain(picture.asset)
  expect(await main([photo, '--step', 'surface-relief', 'kind=picture', 'picture=nowhere.jpg', '--out', out('never.png')])).toBe(2)
  expect(said).toContain('nowhere.jpg')
  expect(existsSync(out('never.png'))).toBe(false)
})

test('an artwork with something painted by hand, by the folder of its parts', async () => {
  const plane = withEntries(emptyPlane(4), [{ tx: 1, ty: 1, entry: constantPixel(0xffff_0000_0000_ffffn) }])
  const { root, pages } = indexOf(plane)
  for (const { name, bytes } of [root, ...pages]) {
    mkdirSync(join(folder, 'painted', name.slice(0, 2)), { recursive: true })
    writeFileSync(join(folder, 'painted', name.slice(0, 2), name), deflateSync(bytes))
  }
  const artwork = artworkFromPhoto({ asset: await hashFile(photo), width: 1920, height: 1280, title: 'x' })
  artwork.layers.push(newLayer('Paint', { type: 'paint', plane: { index: root.name, channels: 4 } }, [], 'paint'))
  writeFileSync(out('painted.json'), JSON.stringify(artwork))
  expect(await main([photo, '--artwork', out('painted.json'), '--painted', join(folder, 'painted'), '--out', out('painted.png')])).toBe(0)
  const [made, own] = [await pixels('painted.png'), await sharp(photo).ensureAlpha().raw().toBuffer()]
  const at = (p: Buffer, x: number, y: number) => [...p.subarray((y * 1920 + x) * 4, (y * 1920 + x) * 4 + 4)]
  expect(at(made, 300, 300)).toEqual([255, 0, 0, 255])
  expect(at(made, 255, 300)).toEqual(at(own, 255, 300))
  expect(await main([photo, '--artwork', out('painted.json'), '--out', out('never.png')])).toBe(1)
  expect(said).toContain('What was painted cannot be read')
})

test.each([
  [['--recipe', 'watercolor-magic'], 'graphite'],
  [['--recipe', 'graphite', '--set', 'glow=3'], 'pencil, darkness, lead, mix'],
  [['--recipe', 'graphite', '--set', 'pencil=300'], '0 to 100'],
  [['--recipe', 'graphite', '--set', 'mix=sepia'], 'orthochromatic'],
  [['--step', 'sparkle'], 'gaussian-blur'],
  [['--step', 'levels', 'glow=3'], 'black, midtone, white'],
  [['--step', 'levels', 'black=400'], '254'],
  [['--step', 'gaussian-blur', 'sigma=wide'], '3px, 0.5% or 2mm'],
  [['--step', 'gaussian-blur', 'sigma=9000px'], '400px'],
  [['--step', 'black-white', 'by=eye'], 'emulsion, bt709'],
  [['--scale', '1/3'], '1/2'],
  [['--quality', '0', '--recipe', 'graphite'], '1 to 100'],
  [['--frobnicate'], 'Usage'],
  // did you mean
  [['--recpie', 'graphite'], '--recipe'],
  [['--step', 'gaussian-blur', 'sigma'], 'no step called “sigma”'],
  [['--set', 'pencil'], 'name=value'],
  [['--quality', 'high', '--recipe', 'graphite'], '1 to 100'],
  [['--recipe', 'graphite', '--step', 'invert'], 'three ways'],
  [['--artwork', 'nowhere.json'], 'no file'],
  [['--step', 'contours', '--centre-lines'], 'for a .svg'],
])('called wrongly: %j ends with 2 and what is valid', async (args, told) => {
  expect(await main([photo, ...args, '--out', out('never.png')])).toBe(2)
  expect(said).toContain(told)
  expect(existsSync(out('never.png'))).toBe(false)
})

test('lines into a file of lines; what has none, and sizes in pixels, are told', async () => {
  expect(await main([photo, '--step', 'contours', '--out', out('lines.svg')])).toBe(0)
  expect(said).toContain('lines.svg: 1920 × 1280 px')
  // a photo of an unsaid size is an A4 print
  expect(readFileSync(out('lines.svg'), 'utf8')).toContain('width="297.366mm"')
  expect((await sharp(out('lines.svg')).metadata()).format).toBe('svg')
  expect(await main([photo, '--step', 'contours', '--scale', '1/2', '--out', out('never.svg')])).toBe(2)
  expect(await main([photo, '--step', 'invert', '--out', out('never.svg')])).toBe(1)
  expect(said).toContain('Add a step that draws')
  expect(existsSync(out('never.svg'))).toBe(false)
})

test('a call without a photo or a usable name for the result', async () => {
  expect(await main([])).toBe(2)
  expect(await main([photo, '--out', out('x.bmp')])).toBe(2)
  expect(await main([join(folder, 'nothing.jpg'), '--out', out('x.png')])).toBe(2)
})

test('what goes wrong in the work ends with 1 and says what is safe', async () => {
  writeFileSync(out('text.jpg'), 'not a picture')
  expect(await main([out('text.jpg'), '--step', 'invert', '--out', out('x.png')])).toBe(1)
  expect(said).toContain('not a picture')
  writeFileSync(out('new.json'), JSON.stringify({ ...artworkFromPhoto({ asset: await hashFile(photo), width: 1, height: 1, title: 'x' }), version: 99 }))
  expect(await main([photo, '--artwork', out('new.json'), '--out', out('x.png')])).toBe(1)
  expect(said).toContain('later version')
  expect(await main([photo, '--step', 'invert', '--out', join(folder, 'no-such-folder/x.png')])).toBe(1)
  expect(said).toContain('choose another --out')
  expect(readdirSync(folder).filter((f) => f.includes('.part'))).toEqual([])
})

test('where a thread of the engine fails, it is told and the picture is made by one thread, the same', async () => {
  jest.spyOn(jest.requireActual<typeof import('node:os')>('node:os'), 'availableParallelism').mockReturnValue(2)
  expect(await main([photo, '--step', 'invert', '--out', out('whole.png')])).toBe(0)
  const run = jest.spyOn(Crew.prototype, 'run').mockImplementation(() => {
    throw new QuillError('kernel-failed', 'A thread failed.', { cause: 'a test' })
  })
  expect(await main([photo, '--step', 'invert', '--out', out('again.png')])).toBe(0)
  expect(run).toHaveBeenCalledTimes(1)
  expect(said).toContain('failed (a test)')
  expect((await pixels('again.png')).equals(await pixels('whole.png'))).toBe(true)
})

test('tells how it is called', async () => {
  expect(await main(['--help'])).toBe(0)
  for (const option of ['--recipe', '--artwork', '--step', '--picture', '--set', '--scale', '--long-side', '--ppi', '--quality', '--out', '--list', '--json'])
    expect(said).toContain(option)
})

test('lists recipes and steps for people and for machines', async () => {
  expect(await main(['--list'])).toBe(0)
  expect(said).toContain('sigma = 3px')
  said = ''
  expect(await main(['--list', '--json'])).toBe(0)
  const table = JSON.parse(said) as { recipes: { controls: unknown[] }[]; steps: { id: string; params: Record<string, { help: string }> }[] }
  expect(table.recipes[0]!.controls).toHaveLength(4)
  for (const s of table.steps) for (const p of Object.values(s.params)) expect(p.help).not.toBe('')
})
