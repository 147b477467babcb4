import { workerData } from 'node:worker_threads'
import { serveCrew, type CrewStart } from './crew.ts'

// A helper thread in Node.
serveCrew(workerData as CrewStart)
