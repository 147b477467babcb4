import type { PipeTransform } from '@nestjs/common'
import { explainZod } from '@nimble-quill/core'
import type { z } from 'zod'
import { ProblemException } from './problem.ts'

/** Checks a body, query or path part against a schema: `@Body(checked(schema))`. */
export function checked<T>(schema: z.ZodType<T>, what = 'The request'): PipeTransform<unknown, T> {
  return {
    transform(value) {
      const parsed = schema.safeParse(value)
      if (parsed.success) return parsed.data
      throw new ProblemException(400, 'request-invalid', 'Not as expected', `${what} is not as expected: ${explainZod(parsed.error)}. Nothing was changed.`, {
        issues: parsed.error.issues.map(({ path, message }) => ({ path: path.join('.'), message })),
      })
    },
  }
}
