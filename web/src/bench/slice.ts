import {
  allLayers,
  jump,
  locate,
  perform,
  record,
  redo,
  startHistory,
  undo,
  type Artwork,
  type Command,
  type History,
  type QuillError,
} from '@nimble-quill/core'
import { createSlice, original, type PayloadAction } from '@reduxjs/toolkit'

/** What the tuning column shows. */
export type Choice = { type: 'recipe'; use: string } | { type: 'layer'; layer: string } | { type: 'step'; layer: string; step: string }
/** Where the picker would put what is picked: a gap in a chain. */
export interface Gap {
  layer: string
  index: number
}
export type SaveState = 'saved' | 'unsaved' | 'saving' | 'away' | 'refused' | 'conflict'

export interface Bench {
  id: string | null
  revision: number
  history: History | null
  choice: Choice | null
  /** Layers that are chosen besides. */
  also: string[]
  /** The layer that is shown alone. */
  alone: string | null
  picker: Gap | null
  /** An artwork shown in the large picture in place of the real one while something is tried. */
  tried: Artwork | null
  save: { state: SaveState; message: string | null }
  /** While held: the picture without the chosen step, or that step alone on its source. */
  peek: 'without' | 'alone' | null
  /** The step of which a proof sheet is open. */
  /** What a proof sheet lays out: values of a step, the blend modes of a step or layer, orders of a layer's steps. */
  proofSheet: { layer: string; step: string; of: 'values' } | { layer: string; step: string | null; of: 'modes' | 'orders' } | null
  /** Why the last command was refused, until it is told. */
  refusal: string | null
}
const start: Bench = {
  id: null,
  revision: 0,
  history: null,
  choice: null,
  also: [],
  alone: null,
  picker: null,
  tried: null,
  peek: null,
  proofSheet: null,
  save: { state: 'saved', message: null },
  refusal: null,
}

/** The choice after an edit: what was chosen if it is still there, else its layer, else the top layer. */
function keptChoice(artwork: Artwork, choice: Choice | null): Choice | null {
  if (choice?.type === 'recipe' && artwork.recipes.some((r) => r.id === choice.use)) return choice
  if (choice && choice.type !== 'recipe') {
    try {
      const { layer } = locate(artwork.layers, choice.layer)
      if (choice.type === 'layer' || layer.chain.some((s) => s.id === choice.step)) return choice
      return { type: 'layer', layer: layer.id }
    } catch {
      // the layer is gone
    }
  }
  const recipe = artwork.recipes.at(-1)
  if (recipe) return { type: 'recipe', use: recipe.id }
  const top = artwork.layers.at(-1)
  return top ? { type: 'layer', layer: top.id } : null
}

/** The history as it is stored, not the draft round it: core makes its own drafts. */
const plainHistory = (state: Bench): History | null => original(state)!.history

function settle(state: Bench, history: History): void {
  if (history === plainHistory(state)) return
  state.history = history
  state.tried = null
  state.choice = keptChoice(history.artwork, state.choice)
  const there = new Set([...allLayers(history.artwork.layers)].map((l) => l.id))
  if (state.picker && !there.has(state.picker.layer)) state.picker = null
  if (state.alone && !there.has(state.alone)) state.alone = null
  state.also = state.also.filter((id) => there.has(id))
  if (state.save.state !== 'conflict') state.save = { state: 'unsaved', message: null }
}

export const bench = createSlice({
  name: 'bench',
  initialState: start,
  reducers: {
    open: (_, { payload }: PayloadAction<{ id: string; revision: number; artwork: Artwork; picker: boolean; unsaved: boolean }>) => ({
      ...start,
      id: payload.id,
      revision: payload.revision,
      history: startHistory(payload.artwork),
      choice: keptChoice(payload.artwork, null),
      picker: payload.picker && payload.artwork.layers[0] ? { layer: payload.artwork.layers[0].id, index: payload.artwork.layers[0].chain.length } : null,
      save: { state: payload.unsaved ? 'unsaved' : 'saved', message: null },
    }),
    close: () => start,
    /** The one way to change the artwork. Commands of one gesture are one entry of the history. */
    command: (state, { payload }: PayloadAction<{ command: Command; gesture?: string }>) => {
      const history = plainHistory(state as Bench)
      if (!history) return
      try {
        settle(state as Bench, record(history, payload.command, payload.gesture ?? null))
      } catch (error) {
        state.refusal = (error as QuillError).message
      }
    },
    undone: (state) => {
      const history = plainHistory(state as Bench)
      if (history) settle(state as Bench, undo(history))
    },
    redone: (state) => {
      const history = plainHistory(state as Bench)
      if (history) settle(state as Bench, redo(history))
    },
    /** To the state after so many entries. */
    jumped: (state, { payload }: PayloadAction<number>) => {
      const history = plainHistory(state as Bench)
      if (history) settle(state as Bench, jump(history, payload))
    },
    choose: (state, { payload }: PayloadAction<Choice>) => {
      state.choice = payload
      state.also = []
    },
    /** Chooses a layer besides, or lets go of it. */
    chooseAlso: (state, { payload }: PayloadAction<string>) => {
      const main = state.choice && state.choice.type !== 'recipe' ? state.choice.layer : null
      if (payload === main) return
      if (main === null) state.choice = { type: 'layer', layer: payload }
      else if (state.also.includes(payload)) state.also = state.also.filter((id) => id !== payload)
      else state.also.push(payload)
    },
    /** Chooses a run of rows, the chosen one among them. */
    chooseRun: (state, { payload }: PayloadAction<string[]>) => {
      const main = state.choice && state.choice.type !== 'recipe' ? state.choice.layer : null
      state.also = payload.filter((id) => id !== main)
    },
    /** Shows a layer alone until it is asked for again. */
    setAlone: (state, { payload }: PayloadAction<string | null>) => {
      state.alone = payload
    },
    peek: (state, { payload }: PayloadAction<Bench['peek']>) => {
      state.peek = payload
    },
    openProofSheet: (state, { payload }: PayloadAction<Bench['proofSheet']>) => {
      state.proofSheet = payload
      state.tried = null
    },
    openPicker: (state, { payload }: PayloadAction<Gap | null>) => {
      state.picker = payload
      state.tried = null
    },
    /** Shows what a command would make, without doing it. */
    tryOut: (state, { payload }: PayloadAction<Command | null>) => {
      const history = plainHistory(state as Bench)
      if (!payload || !history) {
        state.tried = null
        return
      }
      try {
        state.tried = perform(history.artwork, payload).artwork
      } catch {
        state.tried = null
      }
    },
    saveState: (state, { payload }: PayloadAction<{ state: SaveState; message?: string; revision?: number }>) => {
      state.save = { state: payload.state, message: payload.message ?? null }
      if (payload.revision !== undefined) state.revision = payload.revision
    },
    refusalTold: (state) => {
      state.refusal = null
    },
  },
})
export const {
  open,
  close,
  command,
  undone,
  redone,
  jumped,
  choose,
  chooseAlso,
  chooseRun,
  setAlone,
  peek,
  openProofSheet,
  openPicker,
  tryOut,
  saveState,
  refusalTold,
} = bench.actions
