import type { Source } from './schema.ts'

// The papers that ship: a colour, and a surface that the artwork's lamp lights.

export type PaperSource = Extract<Source, { type: 'paper' }>

/** @property kind of the surface, as the relief of surfaces names it; @property pitch from hollow to hollow, mm */
export interface Paper {
  title: string
  kind: 'canvas' | 'laid' | 'cold-pressed' | 'board'
  colour: string
  pitch: number
  depth: number
}

export const papers = {
  'cold-pressed': { title: 'Cold-pressed', kind: 'cold-pressed', colour: '#f6f2e8', pitch: 0.8, depth: 0.1 },
  rough: { title: 'Rough', kind: 'cold-pressed', colour: '#f4efe2', pitch: 1.4, depth: 0.16 },
  laid: { title: 'Laid', kind: 'laid', colour: '#efe6d2', pitch: 0.9, depth: 0.1 },
  canvas: { title: 'Canvas', kind: 'canvas', colour: '#ece5d6', pitch: 0.7, depth: 0.2 },
  'grey-board': { title: 'Grey board', kind: 'board', colour: '#b9b4a8', pitch: 0.5, depth: 0.1 },
} as const satisfies Record<string, Paper>
export type PaperId = keyof typeof papers

/** One of the papers that ship; null for a name that is none. */
export const paperById = (id: string): Paper | null => (Object.hasOwn(papers, id) ? papers[id as PaperId] : null)

/** A layer of one of them, as it begins. */
export const newPaper = (id: PaperId): PaperSource => ({ type: 'paper', paper: id, width: { value: papers[id].pitch, unit: 'mm' }, colour: null })

/** A layer of paper from a picture. @param width how wide the picture lies, mm */
export const picturePaper = (paper: { asset: string; width: number; height: number }, width = 200): PaperSource => ({
  type: 'paper',
  paper,
  width: { value: width, unit: 'mm' },
  colour: null,
})

/** Sides of the piece of a picture that is repeated are multiples of this: so that it is whole pixels at each level that is looked at. */
export const PAPER_GRID = 32
/** The version of the relief that lights these papers: what is on them stays as it is when another comes. */
export const PAPER_RELIEF = 2
