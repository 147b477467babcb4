import { Injectable } from '@nestjs/common'
import type { KeepValues, KeptValues as KeptValuesAnswer } from '@nimble-quill/contracts'
import { BRUSH_VALUES, checkBrush, checkStep, newStep } from '@nimble-quill/core'
import { KeptValues } from '../database/models.ts'
import { notFound, ProblemException } from '../problems/problem.ts'

/** An account keeps so many values at most, of all steps and brushes together. */
const MOST = 1000

export function keptAnswer(k: KeptValues): KeptValuesAnswer {
  return {
    id: k.id,
    step: k.step,
    version: k.version,
    name: k.name,
    params: JSON.parse(k.params) as Record<string, unknown>,
    createdAt: k.createdAt.toISOString(),
  }
}

/** Values of steps and brushes under a name; every query is bound to their owner. */
@Injectable()
export class KeptValuesService {
  list(accountId: string): Promise<KeptValues[]> {
    return KeptValues.findAll({ where: { accountId }, order: [['name', 'ASC']] })
  }

  /**
   * Keeps values; those of the same step and name are replaced.
   * @throws QuillError `unknown-step`, `unknown-param`, `param-invalid`, ProblemException `values-full`
   */
  async keep(accountId: string, { step, name, params }: KeepValues): Promise<KeptValues> {
    const use = step === BRUSH_VALUES ? checkBrush(params) : checkStep(newStep(step, params))
    const fresh = { version: use.version, params: JSON.stringify(use.params), createdAt: new Date() }
    const known = await KeptValues.findOne({ where: { accountId, step, name } })
    if (known) return known.update(fresh)
    if ((await KeptValues.count({ where: { accountId } })) >= MOST)
      throw new ProblemException(422, 'values-full', 'Too many', `${MOST} sets of values are kept already. Nothing was lost; forget some you no longer use.`)
    return KeptValues.create({ accountId, step, name, ...fresh })
  }

  async forget(accountId: string, id: string): Promise<void> {
    if ((await KeptValues.destroy({ where: { accountId, id } })) === 0) throw notFound('set of values')
  }
}
