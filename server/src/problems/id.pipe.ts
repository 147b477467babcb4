import type { PipeTransform } from '@nestjs/common'
import { uuid } from '@nimble-quill/contracts'
import { notFound } from './problem.ts'

/** An id in a path; a malformed one answers as a missing one. */
export function idOf(what: string): PipeTransform<unknown, string> {
  return {
    transform(value) {
      const parsed = uuid.safeParse(value)
      if (!parsed.success) throw notFound(what)
      return parsed.data
    },
  }
}
