// by itself, without steps and documents: there is one for each further core, and the first picture waits for them
import { serveCrew, type CrewStart } from '@nimble-quill/core/crew'

// A helper thread of the engine worker: it shares the work of kernel calls and never comes back to its messages.
self.onmessage = (e: MessageEvent<CrewStart>) => serveCrew(e.data)
