import type { Measured } from '@nimble-quill/core'
import { createContext, useContext } from 'react'

/** What is known of the chosen step: its tones before and after, what it found. Null until the engine has answered. */
export const MeasuredContext = createContext<Measured | null>(null)
export const useMeasured = () => useContext(MeasuredContext)
