import { brushSchema, defaultBrush, sameAddress, type Brush, type PlaneAddress, type Symmetry } from '@nimble-quill/core'
import { createSlice, type PayloadAction } from '@reduxjs/toolkit'
import { choose, close, open, openPicker, openProofSheet } from '../slice.ts'

/** What the brush does: lets through or lays, takes away, or (light maps) brings back to neutral. */
export type Doing = 'lay' | 'take' | 'back'
/** How a mask is shown while it is painted. */
export type Showing = 'picture' | 'overlay' | 'alone'

export interface KeptBrush {
  name: string
  brush: Brush
}

export interface Hands {
  /** The hand that is in hand. */
  held: 'paint' | null
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
  /** A letter key lends another hand while it is held. */
  lent: 'pan' | 'dropper' | 'line' | null
  /** Brushes of one's own. */
  kept: KeptBrush[]
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
  lent: null,
  kept: [],
}
/** What of it is found again in this browser. */
type Remembered = Pick<Hands, 'brush' | 'colour' | 'tray' | 'dropper' | 'kept'>

function read(): Hands {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Remembered>
    // of another version, or spoilt, a brush is the usual one
    const brush = brushSchema.safeParse({ ...defaultBrush, ...kept.brush }).data ?? defaultBrush
    return { ...start, ...kept, brush, kept: (kept.kept ?? []).filter((k) => brushSchema.safeParse(k.brush).success) }
  } catch {
    return start
  }
}
export const keepHands = ({ brush, colour, tray, dropper, kept }: Hands): void =>
  localStorage.setItem(KEY, JSON.stringify({ brush, colour, tray, dropper, kept } satisfies Remembered))

/** Colours that a tray holds. */
const TRAY = 24

const down = (state: Hands): void => {
  state.held = null
  state.lent = null
  state.showing = 'picture'
}

export const hands = createSlice({
  name: 'hands',
  initialState: read,
  reducers: {
    /** Takes up the brush on something. */
    paintOn: (state, { payload }: PayloadAction<PlaneAddress>) => {
      if (!state.on || !sameAddress(state.on, payload)) {
        state.doing = 'lay'
        if (payload.part !== 'mask') state.showing = 'picture'
      }
      state.on = payload
      state.held = 'paint'
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
    keepBrush: (state, { payload }: PayloadAction<string>) => {
      const name = payload.trim().slice(0, 60)
      if (name) state.kept = [{ name, brush: { ...state.brush } }, ...state.kept.filter((k) => k.name !== name)]
    },
    forgetBrush: (state, { payload }: PayloadAction<string>) => {
      state.kept = state.kept.filter((k) => k.name !== payload)
    },
  },
  // choosing something else ends painting, rather than painting elsewhere unseen
  extraReducers: (b) => {
    for (const action of [choose, openPicker, openProofSheet, open, close]) b.addCase(action, down)
  },
})
export const { paintOn, putDown, setHands, setBrush, takeColour, keepBrush, forgetBrush } = hands.actions
