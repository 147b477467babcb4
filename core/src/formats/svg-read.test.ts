import { createCanvas } from '@napi-rs/canvas'
import sharp from 'sharp'
import { MarkList } from '../paths/marks.ts'
import { MOST_TEXT, readSvg, type ReadLines } from './svg-read.ts'
import { writeSvg } from './svg.ts'

const [W, H] = [400, 300]
/** What was read, stroked by Skia: darkness of each pixel, ten pixels a millimetre. */
function stroked({ lines }: ReadLines): Float64Array {
  const c = createCanvas(W, H).getContext('2d')
  c.lineCap = 'butt'
  for (const { points, breadth } of lines) {
    c.lineWidth = breadth * 10
    c.beginPath()
    points.forEach((p, i) => (i ? c.lineTo(p.x * 10, p.y * 10) : c.moveTo(p.x * 10, p.y * 10)))
    c.stroke()
  }
  return Float64Array.from(
    c.getImageData(0, 0, W, H).data.filter((_, i) => i % 4 === 3),
    (v) => v / 255,
  )
}
/** The file drawn by librsvg. */
async function drawn(svg: string): Promise<Float64Array> {
  const sized = svg.replace(/ width="[^"]+" height="[^"]+"/, ` width="${W}" height="${H}"`)
  const { data, info } = await sharp(Buffer.from(sized)).flatten({ background: '#fff' }).greyscale().raw().toBuffer({ resolveWithObject: true })
  return Float64Array.from(
    data.filter((_, i) => i % info.channels === 0),
    (v) => 1 - v / 255,
  )
}
const mean = (v: Float64Array) => v.reduce((s, x) => s + x, 0) / v.length
const file = (inside: string, more = '') => `<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 80 60"${more}>${inside}</svg>`

test('paths, shapes, curves, arcs, transforms and inherited strokes lie where librsvg draws them, within 1 %', async () => {
  const svg = file(`<g fill="none" stroke="#000" stroke-width="1.5" transform="translate(4 3)">
    <path d="M2 2 l10 4 q 8 -6 12 6 t 10 2 c 4 -8 10 12 14 0 s 6 4 10 0 M60 4 h8 v10 z"/>
    <path d="M5 30 a 9 6 25 1 1 14 4 A 4 4 0 0 0 30 38" style="stroke-width:3;stroke:black"/>
    <g transform="rotate(12 40 40) scale(1.2 0.9)"><rect x="30" y="24" width="18" height="9" rx="3"/><circle cx="58" cy="30" r="6"/></g>
    <ellipse cx="12" cy="46" rx="9" ry="4" transform="skewX(15)"/>
    <polyline points="24,44 30,52 36,44 42,52"/><polygon points="50 44, 60 44, 55 53"/><line x1="64" y1="40" x2="72" y2="54"/>
    <g display="none"><line x1="0" y1="0" x2="80" y2="60"/></g>
    <defs><line x1="0" y1="60" x2="80" y2="0"/></defs>
  </g>`)
  const read = readSvg(svg)
  expect([read.width, read.height]).toEqual([40, 30])
  const [ours, theirs] = [stroked(read), await drawn(svg)]
  expect(mean(theirs)).toBeGreaterThan(0.02)
  expect(mean(ours.map((v, i) => Math.abs(v - theirs[i]!)))).toBeLessThan(0.01)
  expect(Math.abs(mean(ours) / mean(theirs) - 1)).toBeLessThan(0.02)
})

test('what is written as centre lines is read as it was, within 0.01 mm', () => {
  const list = new MarkList()
  const lines = [0, 1, 2].map((k) => Array.from({ length: 20 }, (_, i) => ({ x: 20 + 15 * i, y: 60 + 70 * k + 20 * Math.sin(i / 3), half: 2 + k, weight: 1 })))
  for (const line of lines) list.mark(line)
  const sheet = { x: 0, y: 0, w: W, h: H, ppi: 254 }
  const group = {
    layer: 'L',
    title: 'T',
    colour: '#000000',
    marks: list.done(sheet),
    extent: sheet,
    laid: (v: number) => v,
    place: (x: number, y: number) => ({ x, y, scale: 1 }),
  }
  const read = readSvg([...writeSvg({ title: 't', sheet, groups: [group], as: 'centre lines' })].join(''))
  expect(read.lines).toHaveLength(3)
  read.lines.forEach(({ points, breadth }, k) => {
    expect(breadth).toBeCloseTo((2 * (2 + k)) / 10, 2)
    points.forEach((p, i) => expect(Math.hypot(p.x - lines[k]![i]!.x / 10, p.y - lines[k]![i]!.y / 10)).toBeLessThan(0.01))
  })
})

test('sizes in all units, and files that say only what they view', () => {
  const line = '<path d="M0 0L10 0" stroke="red"/>'
  for (const [width, is] of [
    ['2in', 50.8],
    ['72pt', 25.4],
    ['96', 25.4],
    ['96px', 25.4],
    ['3cm', 30],
    ['6pc', 25.4],
  ] as const)
    expect(readSvg(`<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${width}">${line}</svg>`).width).toBeCloseTo(is, 6)
  expect(readSvg(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 96 48">${line}</svg>`)).toMatchObject({ width: 25.4, height: 12.7 })
  expect(readSvg(`<svg xmlns="http://www.w3.org/2000/svg" width="100%" height="100%" viewBox="0 0 96 48">${line}</svg>`).width).toBeCloseTo(25.4, 6)
})

test('what is filled and has no stroke becomes a thin line round it; pictures and words are left out and counted', () => {
  const read = readSvg(file('<rect width="20" height="10"/><text>hello</text><image href="x.png"/><image href="y.png"/><path d="M0 0L9 9" fill="none"/>'))
  expect(read.lines).toHaveLength(1)
  expect(read.lines[0]!.breadth).toBe(0.25)
  expect(read.left).toEqual({ text: 1, image: 2 })
})

test.each([
  ['no SVG', 'hello', 'it is no SVG'],
  ['another XML', '<html><body/></html>', 'it is no SVG'],
  ['cut off', file('<path d="M0 0L9 9" stroke="red"/>').slice(0, -9), 'not well-formed'],
  ['without a line', file('<text>x</text>'), 'it has no line'],
  ['without a size', '<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 0L1 1"/></svg>', 'how large'],
  ['entities that grow', '<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>' + file('<path d="M0 0L1 1" stroke="red"/>'), 'entities'],
  ['too deep', file('<g>'.repeat(200) + '<path d="M0 0L1 1"/>' + '</g>'.repeat(200)), 'deep'],
  ['beyond everything', file('<path d="M0 0L1e30 1" stroke="red"/>'), 'beyond everything'],
])('%s: a sentence', (_, text, says) => {
  expect(() => readSvg(text)).toThrow(says)
  expect(() => readSvg(text)).toThrow('Nothing was changed')
})

test('too many places, and too many characters, are told with how many', () => {
  const long = (n: number) => `<path fill="none" stroke="red" d="M0 0${'l1 1-1 0'.repeat(n)}"/>`
  expect(() => readSvg(file(long(20_000).repeat(26)))).toThrow('1 million places')
  expect(() => readSvg(file(long(900_000)))).toThrow('too long')
  expect(() => readSvg(' '.repeat(MOST_TEXT + 1))).toThrow('16 million characters')
})

test('nothing in a file is run or fetched', () => {
  const read = readSvg(
    file('<script>globalThis.hurt = 1</script><style>@import url(http://x.y)</style><a onload="x()"><path onclick="x()" d="M0 0L9 9" stroke="red"/></a>'),
  )
  expect(read.lines).toHaveLength(1)
  expect((globalThis as { hurt?: number }).hurt).toBeUndefined()
})
