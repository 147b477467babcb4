import { linesTable, measured } from './lines.ts'
import { percentile, type Bar } from './measure.ts'
import { mosaic } from './picture.ts'

// What painted techniques cost: as those made of lines, with a value that only draws (gloss, or the tooth of the paper).

export async function measurePainted(photos: string): Promise<{ text: string; bars: Bar[] }> {
  const photo = await mosaic(photos, 6)
  const gloss = (i: number) => ({ gloss: 0.1 + i / 20 })
  const tooth = (i: number) => ({ tooth: { value: 4 + i / 4, unit: 'px' } })
  const lines = [
    await measured(photo, 'broad-brush', (i) => ({ hand: i }), gloss, 5),
    await measured(photo, 'flowing-oil', (i) => ({ hand: i }), gloss, 5),
    await measured(photo, 'wash', (i) => ({ key: 0.4 + i / 200 }), tooth, 5),
    await measured(photo, 'coloured-pencil', (i) => ({ hand: i }), tooth, 5),
    await measured(photo, 'charcoal', (i) => ({ hand: i }), tooth, 5),
    await measured(photo, 'pastel', (i) => ({ hand: i }), tooth, 5),
    await measured(
      photo,
      'smear',
      (i) => ({ hand: i }),
      (i) => ({ mixing: 0.2 + i / 50 }),
      5,
    ),
    await measured(
      photo,
      'paper-shapes',
      (i) => ({ radius: { value: 0.5 + i / 1000, unit: '%' } }),
      (i) => ({ thickness: { value: 2 + i / 10, unit: 'px' } }),
      5,
    ),
  ]
  const text = linesTable(lines)
  console.log(text)
  const s = (v: number) => `${v.toFixed(1)} s`
  const of = (id: string) => lines.find((l) => l.id === id)!
  const hand = Math.max(...lines.flatMap((l) => [percentile(l.planned, 0.95), percentile(l.drawn, 0.95)]))
  const bar = (what: string, id: string, most: number): Bar => ({ what, bar: `≤ ${most} s`, measured: s(of(id).cold), met: of(id).cold <= most })
  const bars: Bar[] = [
    bar('broad brush, from nothing', 'broad-brush', 6),
    bar('flowing oil, from nothing', 'flowing-oil', 8),
    bar('wash, from nothing', 'wash', 5),
    bar('coloured pencil, from nothing', 'coloured-pencil', 6),
    bar('paper shapes, from nothing', 'paper-shapes', 3),
    { what: 'under the hand, 95th percentile', bar: '≤ 100 ms', measured: `${hand.toFixed(0)} ms`, met: hand <= 100 },
  ]
  return { text, bars }
}
