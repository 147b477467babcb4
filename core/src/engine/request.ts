import { QuillError } from '../base/errors.ts'

/** Set from outside to stop a computation; looked at between pieces of work. */
export interface Signal {
  cancelled: boolean
}

/** Milliseconds of work after which other events get a turn. */
const TURN = 12

/** How a picture is to be computed; handed on to all that takes part, never changed. */
export interface Request {
  readonly signal: Signal
  /** For the picture under a moving hand: a step's word that it should be computed finer (`coarsest`) is a wish only. */
  readonly quick: boolean
  /** Leaves one core to the page. */
  readonly alone: boolean
  /** Facts and plans stay as they were last found, whatever is painted under them: for the picture under a brush. */
  readonly frozen: boolean
  /** Where a new plan would have to be laid, the step's last one over the same input is drawn: for the picture under a moving hand. */
  readonly lends: boolean
  /** Told how far something is that takes long, in words and as a share 0…1. */
  readonly tell?: ((title: string, share: number) => void) | undefined
  /** Lets other events happen now and then, and throws where the work is no longer wanted. */
  readonly pause: () => Promise<void>
}

/** When events last had a turn; one an engine, so that many short requests let them in too. */
export interface Turns {
  last: number
  breathe: () => Promise<void>
}

/** @throws QuillError `cancelled`, from `pause` */
export function newRequest(
  turns: Turns,
  given: { signal?: Signal; quick?: boolean; alone?: boolean; frozen?: boolean; lends?: boolean; tell?: Request['tell'] },
): Request {
  const signal = given.signal ?? { cancelled: false }
  return {
    signal,
    quick: given.quick ?? false,
    alone: given.alone ?? false,
    frozen: given.frozen ?? false,
    lends: given.lends ?? false,
    tell: given.tell,
    pause: async () => {
      if (performance.now() - turns.last > TURN) {
        await turns.breathe()
        turns.last = performance.now()
      }
      if (signal.cancelled) throw new QuillError('cancelled', 'Stopped.')
    },
  }
}
