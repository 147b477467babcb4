import { Controller, Get, Header } from '@nestjs/common'
import { openApi, routes } from '@nimble-quill/contracts'
import { z } from 'zod'
import { Open } from '../accounts/session.guard.ts'

const escape = (s: string) => s.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`)

/** The API described: as OpenAPI, and as a page to read. */
@Open()
@Controller('api')
export class DocsController {
  @Get('openapi.json')
  json(): Record<string, unknown> {
    return openApi()
  }

  @Get('docs')
  @Header('Content-Type', 'text/html; charset=utf-8')
  page(): string {
    const shape = (title: string, schema: z.ZodType | undefined, io: 'input' | 'output') =>
      schema
        ? `<details><summary>${title}</summary><pre>${escape(JSON.stringify(z.toJSONSchema(schema, { io, unrepresentable: 'any' }), null, 2))}</pre></details>`
        : ''
    const rows = routes.map(
      (r) =>
        `<section><h3><code>${r.method.toUpperCase()} ${escape(r.path)}</code></h3><p>${escape(r.summary)}. Answers ${r.status}${r.problems?.length ? `, or problem details with ${r.problems.join(', ')}` : ''}.${r.open ? ' Needs no session.' : ''}</p>${shape('Request', r.body, 'input')}${shape('Answer', r.answer, 'output')}</section>`,
    )
    return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Nimble Quill: the API</title>
<style>body{font:15px/1.5 system-ui;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#222}pre{background:#f2f2f2;padding:.75rem;overflow:auto}code{font-size:1.05em}</style>
<h1>The API of Nimble Quill</h1><p>Drawn from the schemas the server checks with. As <a href="/api/openapi.json">OpenAPI 3.1</a>. Failures are answered as <code>application/problem+json</code> (RFC 9457).</p>${rows.join('')}</html>`
  }
}
