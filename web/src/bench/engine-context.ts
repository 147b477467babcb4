import { createContext, useContext } from 'react'
import type { EngineClient } from '../engine/client.ts'

export const EngineContext = createContext<EngineClient | null>(null)
export const useEngine = () => useContext(EngineContext)!
