import { Injectable } from '@nestjs/common'
import type { KeepState, State, StateHead } from '@nimble-quill/contracts'
import { ArtworksService } from '../artworks/artworks.service.ts'
import { States } from '../database/models.ts'
import { notFound, ProblemException } from '../problems/problem.ts'

/** An artwork has so many kept states at most. */
const MOST = 100

export const stateHead = (s: States): StateHead => ({ id: s.id, name: s.name, createdAt: s.createdAt.toISOString() })

/** States of an artwork kept under a name; every query is bound to their owner. */
@Injectable()
export class StatesService {
  private readonly artworks: ArtworksService

  constructor(artworks: ArtworksService) {
    this.artworks = artworks
  }

  async list(accountId: string, artworkId: string): Promise<States[]> {
    await this.artworks.find(accountId, artworkId)
    return States.findAll({ where: { accountId, artworkId }, order: [['createdAt', 'DESC']], attributes: { exclude: ['document'] } })
  }

  /**
   * Keeps a state; one of the same name is replaced.
   * @throws what ArtworksService.checked does; ProblemException `states-full`
   */
  async keep(accountId: string, artworkId: string, { name, document }: KeepState): Promise<States> {
    await this.artworks.find(accountId, artworkId)
    const checked = JSON.stringify(await this.artworks.checked(accountId, document))
    const known = await States.findOne({ where: { accountId, artworkId, name } })
    if (known) return known.update({ document: checked, createdAt: new Date() })
    if ((await States.count({ where: { artworkId } })) >= MOST)
      throw new ProblemException(
        422,
        'states-full',
        'Too many',
        `${MOST} states of this artwork are kept already. Nothing was lost; forget some you no longer need.`,
      )
    return States.create({ accountId, artworkId, name, document: checked })
  }

  async read(accountId: string, artworkId: string, id: string): Promise<State> {
    const state = await States.findOne({ where: { accountId, artworkId, id } })
    if (!state) throw notFound('state')
    return { ...stateHead(state), document: JSON.parse(state.document) as unknown }
  }

  async forget(accountId: string, artworkId: string, id: string): Promise<void> {
    if ((await States.destroy({ where: { accountId, artworkId, id } })) === 0) throw notFound('state')
  }
}
