import { configureStore } from '@reduxjs/toolkit'
import { useDispatch, useSelector } from 'react-redux'
import { hands, keepHands } from '../bench/hands/slice.ts'
import { bench } from '../bench/slice.ts'
import { api } from './api.ts'
import { keepPrefs, prefs } from './prefs.ts'

export function makeStore() {
  const store = configureStore({
    reducer: { [api.reducerPath]: api.reducer, bench: bench.reducer, hands: hands.reducer, prefs: prefs.reducer },
    // documents are plain data; checking them at every drag would cost frames
    middleware: (all) => all({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
  })
  let kept = store.getState().prefs
  let hand = store.getState().hands
  store.subscribe(() => {
    const now = store.getState().prefs
    if (now !== kept) keepPrefs((kept = now))
    const held = store.getState().hands
    if (held !== hand) keepHands((hand = held))
  })
  return store
}
export type Store = ReturnType<typeof makeStore>
export type RootState = ReturnType<Store['getState']>
export const useApp = useSelector.withTypes<RootState>()
export const useAct = useDispatch.withTypes<Store['dispatch']>()
