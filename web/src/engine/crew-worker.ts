import { serveCrew, type CrewStart } from '@nimble-quill/core'

// A helper thread of the engine worker: it shares the work of kernel calls and never comes back to its messages.
self.onmessage = (e: MessageEvent<CrewStart>) => serveCrew(e.data)
