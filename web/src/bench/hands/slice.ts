import {
  brushSchema,
  defaultBrush,
  isStudyPart,
  sameAddress,
  type AreaHow,
  type Brush,
  type Depth,
  type Mended,
  type PlaneAddress,
  type Symmetry,
} from '@nimble-quill/core'
import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { choose, close, open, openPicker, openProofSheet } from '../slice.ts'

/** What the brush does: lets through or lays, takes away, or (light maps) brings back to neutral. */
export type Doing = 'lay' | 'take' | 'back'
/** What an area is taken by. */
export type AreaBy = 'rectangle' | 'ellipse' | 'free' | 'corners' | 'alike'
/** How a mask is shown while it is painted. */
export type Showing = 'picture' | 'overlay' | 'alone'

export type PlaceUnit = 'px' | 'mm' | 'in' | '%'
/** Artwork pixels of one of a unit that is not a share. */
export const pixelsOf = (unit: PlaceUnit, ppi: number): number => (unit === 'mm' ? ppi / 25.4 : unit === 'in' ? ppi : 1)

export interface Hands {
  /** The hand that is in hand. */
  held: 'paint' | 'ink' | 'area' | 'mend' | 'place' | 'frame' | null
  /** What it acts on. */
  on: PlaneAddress | null
  doing: Doing
  showing: Showing
  brush: Brush
  colour: string
  /** Colours picked so far, the last first. */
  tray: string[]
  symmetry: Symmetry
  /** Side of the square that the dropper takes the mean of, pixels; and of what. */
  dropper: { side: number; of: 'all' | 'layer' }
  /** The pen for ink: the layer it draws on, what it does, and how it draws. */
  ink: {
    layer: string | null
    does: 'draw' | 'choose' | 'erase'
    breadth: { value: number; unit: 'px' | 'mm' }
    pressure: number
    taper: number
    steadiness: number
    /** Lines grow thinner towards a side of the sheet; null: they do not. */
    depth: Depth | null
    /** Strokes that are chosen, by their numbers. */
    chosen: number[]
  }
  /** How an area is taken, and what likeness took last, so that it can be taken anew with another bound. */
  area: {
    by: AreaBy
    how: AreaHow
    like: { by: 'colour' | 'tone'; colour: number; tone: number; together: boolean; edges: boolean }
    last: { x: number; y: number; how: AreaHow; upon: string | null; left: string | null; turn: number } | null
    edge: { round: number; move: number; soften: number }
  }
  /** The layer that is mended on, how, where it is taken from (sheet pixels), and what a spot found last. */
  mend: {
    layer: string | null
    way: Mended['way']
    travels: boolean
    source: { x: number; y: number } | null
    /** From the hand to the source, pixels of the layer, once the source travels with it. */
    offset: { dx: number; dy: number } | null
    last: { place: string; tried: { dx: number; dy: number }[]; turn: string } | null
  }
  /** How *Place* shows its numbers, what is dragged (the whole picture's box, or each corner by itself), and whether it is drawn to lines. */
  place: { unit: PlaceUnit; grips: 'box' | 'corners'; ratio: boolean; snaps: boolean }
  /** How *Frame* keeps its ratio (its name; '': free), what lines it shows, what its numbers change, and whether straightening leaves no corner blank. */
  frame: {
    ratio: string
    upright: boolean
    lines: 'none' | 'thirds' | 'golden'
    changes: 'frame' | 'all'
    pivot: { x: number; y: number }
    drawnIn: boolean
    level: boolean
  }
  /** A letter key lends another hand while it is held. */
  lent: 'pan' | 'dropper' | 'line' | null
}

const KEY = 'quill.hands'
const start: Hands = {
  held: null,
  on: null,
  doing: 'lay',
  showing: 'picture',
  brush: defaultBrush,
  colour: '#1d1d1b',
  tray: [],
  symmetry: { type: 'none' },
  dropper: { side: 1, of: 'all' },
  ink: { layer: null, does: 'draw', breadth: { value: 0.6, unit: 'mm' }, pressure: 0.6, taper: 0.3, steadiness: 0.4, depth: null, chosen: [] },
  area: {
    by: 'rectangle',
    how: 'instead',
    like: { by: 'colour', colour: 12, tone: 20, together: true, edges: true },
    last: null,
    edge: { round: 0, move: 0, soften: 0 },
  },
  mend: { layer: null, way: 'spot', travels: true, source: null, offset: null, last: null },
  place: { unit: 'px', grips: 'box', ratio: true, snaps: true },
  frame: { ratio: '', upright: false, lines: 'thirds', changes: 'frame', pivot: { x: 0.5, y: 0.5 }, drawnIn: true, level: false },
  lent: null,
}
/** What of it is found again in this browser. */
type Remembered = Pick<Hands, 'brush' | 'colour' | 'tray' | 'dropper' | 'place'>

function read(): Hands {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Remembered>
    // of another version, or spoilt, a brush is the usual one
    const brush = brushSchema.safeParse({ ...defaultBrush, ...kept.brush }).data ?? defaultBrush
    return { ...start, ...kept, brush, place: { ...start.place, ...kept.place, grips: 'box' } }
  } catch {
    return start
  }
}
export const keepHands = ({ brush, colour, tray, dropper, place }: Hands): void =>
  localStorage.setItem(KEY, JSON.stringify({ brush, colour, tray, dropper, place } satisfies Remembered))

/** Colours that a tray holds. */
const TRAY = 24

const down = (state: Hands): void => {
  state.held = null
  state.lent = null
  state.showing = 'picture'
  state.frame.level = false
}

export const hands = createSlice({
  name: 'hands',
  initialState: read,
  reducers: {
    /** Takes up the brush on something. */
    paintOn: (state, { payload }: PayloadAction<PlaneAddress>) => {
      if (!state.on || !sameAddress(state.on, payload)) {
        state.doing = 'lay'
        // what a photo was found to be is seen only where it is shown
        if (payload.part !== 'mask') state.showing = isStudyPart(payload.part) ? 'overlay' : 'picture'
      }
      state.on = payload
      state.held = 'paint'
    },
    /** Takes up *Place*: it acts on the layers that are chosen. */
    takePlace: (state) => {
      down(state)
      state.held = 'place'
      state.place.grips = 'box'
    },
    /** Takes up the pen on a layer of ink. */
    takeInk: (state, { payload }: PayloadAction<string>) => {
      down(state)
      state.held = 'ink'
      if (state.ink.layer !== payload) state.ink.chosen = []
      state.ink.layer = payload
    },
    /** Takes up the hand that mends, on a layer of mended places. */
    takeMend: (state, { payload }: PayloadAction<string>) => {
      down(state)
      state.held = 'mend'
      if (state.mend.layer !== payload) Object.assign(state.mend, { source: null, offset: null, last: null })
      state.mend.layer = payload
      state.doing = 'lay'
    },
    setMend: (state, { payload }: PayloadAction<Partial<Hands['mend']>>) => {
      Object.assign(state.mend, payload)
    },
    takeArea: (state) => {
      down(state)
      state.held = 'area'
    },
    setArea: (state, { payload }: PayloadAction<Partial<Hands['area']>>) => {
      Object.assign(state.area, payload)
    },
    setInk: (state, { payload }: PayloadAction<Partial<Hands['ink']>>) => {
      Object.assign(state.ink, payload)
      if (payload.does && payload.does !== 'choose') state.ink.chosen = []
    },
    takeFrame: (state) => {
      down(state)
      state.held = 'frame'
      // a frame is free until it is said what it keeps to
      state.frame.ratio = ''
    },
    setFrameHand: (state, { payload }: PayloadAction<Partial<Hands['frame']>>) => {
      Object.assign(state.frame, payload)
    },
    setPlace: (state, { payload }: PayloadAction<Partial<Hands['place']>>) => {
      Object.assign(state.place, payload)
    },
    putDown: down,
    setHands: (state, { payload }: PayloadAction<Partial<Omit<Hands, 'held' | 'on'>>>) => {
      Object.assign(state, payload)
    },
    setBrush: (state, { payload }: PayloadAction<Partial<Brush>>) => {
      Object.assign(state.brush, payload)
    },
    takeColour: (state, { payload }: PayloadAction<string>) => {
      state.colour = payload
      state.tray = [payload, ...state.tray.filter((c) => c !== payload)].slice(0, TRAY)
    },
  },
  // choosing something else ends painting, rather than painting elsewhere unseen
  extraReducers: (b) => {
    for (const action of [openProofSheet, open, close]) b.addCase(action, down)
    // closing the picker leaves what is in hand
    b.addCase(openPicker, (state, { payload }) => {
      if (payload !== null) down(state)
    })
    // what is placed is what is chosen, and shows its handles
    b.addCase(choose, (state) => {
      if (state.held === 'paint' || state.held === 'ink' || state.held === 'mend' || state.held === 'frame') down(state)
      state.place.grips = 'box'
    })
  },
})
export const {
  paintOn,
  takeInk,
  setInk,
  takeArea,
  setArea,
  takeMend,
  setMend,
  putDown,
  takePlace,
  takeFrame,
  setFrameHand,
  setPlace,
  setHands,
  setBrush,
  takeColour,
} = hands.actions
