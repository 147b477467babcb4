import { Body, Controller, Get, HttpCode, Param, Post, Put, Req, Res } from '@nestjs/common'
import { missingPartsSchema } from '@nimble-quill/contracts'
import type { Request, Response } from 'express'
import { z } from 'zod'
import { Me } from '../accounts/session.guard.ts'
import type { Account } from '../database/models.ts'
import { ProblemException } from '../problems/problem.ts'
import { sendFile } from '../problems/send-file.ts'
import { checked } from '../problems/zod.pipe.ts'
import { PLANE_PART } from './parts.ts'
import { PlanesService } from './planes.service.ts'

const nameSchema = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hexadecimal')
/** What deflating may add to bytes that cannot be made smaller. */
const LONGEST = PLANE_PART + 1024

@Controller('api/planes')
export class PlanesController {
  private readonly planes: PlanesService

  constructor(planes: PlanesService) {
    this.planes = planes
  }

  @Post('missing')
  @HttpCode(200)
  async missing(@Me() me: Account, @Body(checked(missingPartsSchema)) body: z.output<typeof missingPartsSchema>): Promise<{ missing: string[] }> {
    return { missing: await this.planes.missing(me.id, body.names) }
  }

  @Put(':name')
  @HttpCode(204)
  async keep(@Me() me: Account, @Param('name', checked(nameSchema, 'The name')) name: string, @Req() request: Request): Promise<void> {
    const tooLarge = () => new ProblemException(413, 'too-large', 'Too large', 'A part of what was painted may have half a megabyte. Nothing was kept.')
    if (Number(request.headers['content-length'] ?? 0) > LONGEST) throw tooLarge()
    const chunks: Buffer[] = []
    let length = 0
    for await (const chunk of request as AsyncIterable<Buffer>) {
      length += chunk.length
      if (length > LONGEST) throw tooLarge()
      chunks.push(chunk)
    }
    await this.planes.keep(me.id, name, Buffer.concat(chunks))
  }

  @Get(':name')
  async read(@Me() me: Account, @Param('name', checked(nameSchema, 'The name')) name: string, @Res() response: Response): Promise<void> {
    await sendFile(response, this.planes.fileOf(me.id, name), 'part of what was painted', {
      'Content-Type': 'application/octet-stream',
      'Cache-Control': 'private, max-age=31536000, immutable',
    })
  }
}
