import type { PathPoint } from '../paths/path.ts'

/** How what is taken goes with the area that is there: instead of it, together, away from it, or what both share. */
export type AreaHow = 'instead' | 'add' | 'away' | 'share'

/** What an area is taken from. Artwork pixels. */
export type AreaFrom =
  | { type: 'rectangle' | 'ellipse'; x: number; y: number; w: number; h: number }
  /** Corners, or the places that a free hand went through; closed by itself. */
  | { type: 'outline'; points: readonly PathPoint[] }
  | Alike
  | { type: 'mask'; layer: string; step: string | null }
  /** What a layer covers. */
  | { type: 'cover'; layer: string }
  /** One that was kept, by its plane; all of the sheet. */
  | { type: 'kept'; plane: string }
  | { type: 'all' }

/** All that is like a place of the picture as it is shown. */
export interface Alike {
  type: 'alike'
  x: number
  y: number
  by: 'colour' | 'tone'
  /** How unlike it may be: ΔE*ab, or tones of 0…255. */
  within: number
  /** Only as far as it hangs together. */
  together: boolean
  /** And not over edges of the picture. */
  edges: boolean
}

export type AreaOrder =
  /** `upon`: another area than the one that is there, by its plane (null: none); for taking the same anew with another bound. */
  | { type: 'take'; how: AreaHow; from: AreaFrom; upon?: string | null }
  /** What was out is in. */
  | { type: 'turn-round' }
  /** Corners rounded, then the edge moved (negative: inwards), then softened: pixels. */
  | { type: 'edge'; round: number; move: number; soften: number }
