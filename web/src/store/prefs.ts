import { createSlice, type PayloadAction } from '@reduxjs/toolkit'

export const surrounds = ['light', 'middle', 'dark'] as const
export type Surround = (typeof surrounds)[number]

export interface Prefs {
  surround: Surround
  /** Small pictures show the whole, or the look spot at 100 %. */
  proofs: 'whole' | 'spot'
  /** The most that the process sheet takes of the window, px; few rows take less, and the picture has the rest. */
  sheetHeight: number
  /** The picture in greys: values only. */
  values: boolean
  mirrored: boolean
  /** Degrees by which the view is turned, clockwise. */
  turned: number
  /** Rulers along the picture, while it is placed. */
  rulers: boolean
}
const KEY = 'quill.prefs'
const start: Prefs = { surround: 'middle', proofs: 'whole', sheetHeight: 232, values: false, mirrored: false, turned: 0, rulers: true }

function read(): Prefs {
  try {
    return { ...start, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Prefs>) }
  } catch {
    return start
  }
}

/** What a person sets once and finds again in this browser. */
export const prefs = createSlice({
  name: 'prefs',
  initialState: read,
  reducers: {
    setPrefs: (state, { payload }: PayloadAction<Partial<Prefs>>) => {
      Object.assign(state, payload)
    },
  },
})
export const { setPrefs } = prefs.actions
export const keepPrefs = (p: Prefs) => localStorage.setItem(KEY, JSON.stringify(p))
