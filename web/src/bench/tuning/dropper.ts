import { createContext, useContext } from 'react'

/** Picking a colour from the picture: a field asks, the picture answers at the next click. */
export interface Dropper {
  /** Whether the next click on the picture picks. */
  asked: boolean
  ask: (take: (hex: string) => void) => void
  /** Called by the picture; null: no longer wanted. */
  answer: (hex: string | null) => void
}
export const DropperContext = createContext<Dropper>({ asked: false, ask: () => undefined, answer: () => undefined })
export const useDropper = () => useContext(DropperContext)
