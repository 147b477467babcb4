import { z } from 'zod'
import {
  accountSchema,
  artworkAnswerSchema,
  artworkHeadSchema,
  createArtworkSchema,
  createRenderSchema,
  keepRecipeSchema,
  keepStateSchema,
  keepValuesSchema,
  keptValuesSchema,
  missingPartsAnswerSchema,
  missingPartsSchema,
  ownRecipeSchema,
  photoSchema,
  problemSchema,
  renderEventSchema,
  renderSchema,
  saveArtworkSchema,
  savedSchema,
  signInSchema,
  signUpSchema,
  sourceInfoSchema,
  stateHeadSchema,
  stateSchema,
  welcomeSchema,
} from './schemas.ts'

/** One operation of the API. The OpenAPI page and the server's own test of its routes are drawn from these. */
export interface Route {
  method: 'get' | 'post' | 'put' | 'delete'
  path: string
  noun: string
  summary: string
  body?: z.ZodType
  /** Where the body is not JSON. */
  bodyType?: string
  answer?: z.ZodType
  answerType?: string
  status: number
  open?: boolean
  problems?: number[]
}

export const routes: readonly Route[] = [
  {
    method: 'get',
    path: '/api/welcome',
    noun: 'accounts',
    summary: 'What this server offers before signing in',
    answer: welcomeSchema,
    status: 200,
    open: true,
  },
  {
    method: 'post',
    path: '/api/accounts',
    noun: 'accounts',
    summary: 'Sign up; the answer sets the session cookie',
    body: signUpSchema,
    answer: accountSchema,
    status: 201,
    open: true,
    problems: [400, 409, 429],
  },
  {
    method: 'post',
    path: '/api/session',
    noun: 'accounts',
    summary: 'Sign in; the answer sets the session cookie',
    body: signInSchema,
    answer: accountSchema,
    status: 200,
    open: true,
    problems: [400, 401, 429],
  },
  {
    method: 'post',
    path: '/api/session/demo',
    noun: 'accounts',
    summary: 'Enter the demo studio (demo mode only)',
    answer: accountSchema,
    status: 200,
    open: true,
    problems: [404],
  },
  { method: 'get', path: '/api/session', noun: 'accounts', summary: 'Who is signed in', answer: accountSchema, status: 200, problems: [401] },
  { method: 'delete', path: '/api/session', noun: 'accounts', summary: 'Sign out', status: 204 },
  { method: 'get', path: '/api/photos', noun: 'photos', summary: 'List photos, newest first', answer: z.array(photoSchema), status: 200 },
  {
    method: 'post',
    path: '/api/photos?name=',
    noun: 'photos',
    summary: 'Add a photo: the file is the body, streamed',
    bodyType: 'application/octet-stream',
    answer: photoSchema,
    status: 201,
    problems: [400, 413, 415, 422, 507],
  },
  {
    method: 'delete',
    path: '/api/photos/:id',
    noun: 'photos',
    summary: 'Delete a photo (artworks made from it keep their pixels)',
    status: 204,
    problems: [404],
  },
  { method: 'post', path: '/api/photos/:id/restore', noun: 'photos', summary: 'Take back a deletion', answer: photoSchema, status: 200, problems: [404] },
  {
    method: 'get',
    path: '/api/photos/:id/small/:size',
    noun: 'photos',
    summary: 'A small copy, long side 320 or 1280',
    answerType: 'image/webp',
    status: 200,
    problems: [404],
  },
  {
    method: 'get',
    path: '/api/sources/:asset',
    noun: 'sources',
    summary: 'What is known of a photo’s pixel pyramid',
    answer: sourceInfoSchema,
    status: 200,
    problems: [404],
  },
  {
    method: 'get',
    path: '/api/sources/:asset/:level/:x/:y',
    noun: 'sources',
    summary: 'One tile of the pyramid: zlib-deflated rows, each sample less its left neighbour',
    answerType: 'application/octet-stream',
    status: 200,
    problems: [404],
  },
  { method: 'get', path: '/api/artworks', noun: 'artworks', summary: 'List artworks, last changed first', answer: z.array(artworkHeadSchema), status: 200 },
  {
    method: 'post',
    path: '/api/artworks',
    noun: 'artworks',
    summary: 'Begin an artwork',
    body: createArtworkSchema,
    answer: artworkAnswerSchema,
    status: 201,
    problems: [400, 404, 422],
  },
  { method: 'get', path: '/api/artworks/:id', noun: 'artworks', summary: 'Read an artwork', answer: artworkAnswerSchema, status: 200, problems: [404] },
  {
    method: 'put',
    path: '/api/artworks/:id',
    noun: 'artworks',
    summary: 'Save; refused with 409 when another change came first',
    body: saveArtworkSchema,
    answer: savedSchema,
    status: 200,
    problems: [400, 404, 409, 422, 507],
  },
  { method: 'post', path: '/api/artworks/:id/duplicate', noun: 'artworks', summary: 'Duplicate', answer: artworkAnswerSchema, status: 201, problems: [404] },
  { method: 'delete', path: '/api/artworks/:id', noun: 'artworks', summary: 'Delete', status: 204, problems: [404] },
  {
    method: 'post',
    path: '/api/artworks/:id/restore',
    noun: 'artworks',
    summary: 'Take back a deletion',
    answer: artworkHeadSchema,
    status: 200,
    problems: [404],
  },
  {
    method: 'get',
    path: '/api/artworks/:id/thumbnail',
    noun: 'artworks',
    summary: 'A small picture of the saved artwork',
    answerType: 'image/png',
    status: 200,
    problems: [404],
  },
  {
    method: 'post',
    path: '/api/planes/missing',
    noun: 'planes',
    summary: 'Which parts of what was painted are not there',
    body: missingPartsSchema,
    answer: missingPartsAnswerSchema,
    status: 200,
    problems: [400],
  },
  {
    method: 'put',
    path: '/api/planes/:name',
    noun: 'planes',
    summary:
      'Keep a part of what was painted (a tile, a page of an index, its root) under the SHA-256 of its bytes; of tiles each sample less its left neighbour, zlib-deflated',
    bodyType: 'application/octet-stream',
    status: 204,
    problems: [400, 413, 422, 507],
  },
  {
    method: 'get',
    path: '/api/planes/:name',
    noun: 'planes',
    summary: 'A part of what was painted, as it was sent',
    answerType: 'application/octet-stream',
    status: 200,
    problems: [404],
  },
  {
    method: 'get',
    path: '/api/kept-values',
    noun: 'kept values',
    summary: 'List values of steps kept under a name',
    answer: z.array(keptValuesSchema),
    status: 200,
  },
  {
    method: 'put',
    path: '/api/kept-values',
    noun: 'kept values',
    summary: 'Keep values of a step; those of the same name are replaced',
    body: keepValuesSchema,
    answer: keptValuesSchema,
    status: 200,
    problems: [400, 422],
  },
  { method: 'delete', path: '/api/kept-values/:id', noun: 'kept values', summary: 'Forget values', status: 204, problems: [404] },
  {
    method: 'get',
    path: '/api/artworks/:artwork/states',
    noun: 'states',
    summary: 'List states of an artwork kept by name, newest first',
    answer: z.array(stateHeadSchema),
    status: 200,
    problems: [404],
  },
  {
    method: 'put',
    path: '/api/artworks/:artwork/states',
    noun: 'states',
    summary: 'Keep a state; one of the same name is replaced',
    body: keepStateSchema,
    answer: stateHeadSchema,
    status: 200,
    problems: [400, 404, 422],
  },
  { method: 'get', path: '/api/artworks/:artwork/states/:id', noun: 'states', summary: 'A kept state', answer: stateSchema, status: 200, problems: [404] },
  { method: 'delete', path: '/api/artworks/:artwork/states/:id', noun: 'states', summary: 'Forget a state', status: 204, problems: [404] },
  { method: 'get', path: '/api/recipes', noun: 'recipes', summary: 'List recipes of one’s own', answer: z.array(ownRecipeSchema), status: 200 },
  {
    method: 'put',
    path: '/api/recipes',
    noun: 'recipes',
    summary: 'Keep a recipe; one of the same title is replaced',
    body: keepRecipeSchema,
    answer: ownRecipeSchema,
    status: 200,
    problems: [400, 422],
  },
  { method: 'delete', path: '/api/recipes/:id', noun: 'recipes', summary: 'Forget a recipe', status: 204, problems: [404] },
  { method: 'get', path: '/api/renders', noun: 'renders', summary: 'List renders, newest first', answer: z.array(renderSchema), status: 200 },
  {
    method: 'post',
    path: '/api/renders',
    noun: 'renders',
    summary: 'Render the saved artwork at full size',
    body: createRenderSchema,
    answer: renderSchema,
    status: 201,
    problems: [400, 404],
  },
  { method: 'post', path: '/api/renders/:id/cancel', noun: 'renders', summary: 'Cancel', answer: renderSchema, status: 200, problems: [404] },
  { method: 'delete', path: '/api/renders/:id', noun: 'renders', summary: 'Delete a finished render and its file', status: 204, problems: [404, 409] },
  {
    method: 'get',
    path: '/api/renders/events',
    noun: 'renders',
    summary: 'Progress of all renders, as server-sent events',
    answer: renderEventSchema,
    answerType: 'text/event-stream',
    status: 200,
  },
  {
    method: 'get',
    path: '/api/renders/:id/file',
    noun: 'renders',
    summary: 'Download the finished file',
    answerType: 'image/*',
    status: 200,
    problems: [404, 409],
  },
]

/** The OpenAPI 3.1 document, drawn from the routes and their schemas. */
export function openApi(): Record<string, unknown> {
  const json = (schema: z.ZodType, io: 'input' | 'output') => ({ 'application/json': { schema: z.toJSONSchema(schema, { io, unrepresentable: 'any' }) } })
  const paths: Record<string, Record<string, unknown>> = {}
  for (const r of routes) {
    const path = r.path.replace(/\?.*$/, '').replace(/:(\w+)/g, '{$1}')
    const parameters = [...r.path.matchAll(/:(\w+)/g)].map((m) => ({ name: m[1], in: 'path', required: true, schema: { type: 'string' } }))
    if (r.path.includes('?name=')) parameters.push({ name: 'name', in: 'query', required: true, schema: { type: 'string' } })
    const responses: Record<string, unknown> = {
      [r.status]: { description: r.summary, ...(r.answerType ? { content: { [r.answerType]: {} } } : r.answer ? { content: json(r.answer, 'output') } : {}) },
    }
    for (const p of [...(r.problems ?? []), ...(r.open ? [] : [401])])
      responses[p] = { description: 'Problem', content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } } }
    paths[path] ??= {}
    paths[path][r.method] = {
      tags: [r.noun],
      summary: r.summary,
      parameters,
      ...(r.body
        ? { requestBody: { required: true, content: json(r.body, 'input') } }
        : r.bodyType
          ? { requestBody: { required: true, content: { [r.bodyType]: {} } } }
          : {}),
      responses,
      security: r.open ? [] : [{ session: [] }],
    }
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Nimble Quill', version: '1' },
    paths,
    components: {
      schemas: { Problem: z.toJSONSchema(problemSchema) },
      securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'quill' } },
    },
  }
}
