import { spawn, type ChildProcessWithoutNullStreams } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import type { Picture } from './picture.ts'

const script = join(import.meta.dirname, '../native/reference.py')

/** OpenCV native in a process of its own; null where Debian's python3-opencv is not installed. */
export class Native {
  private readonly child: ChildProcessWithoutNullStreams
  private readonly waiting: ((line: string) => void)[] = []
  private readonly folder = mkdtempSync(join(tmpdir(), 'quill-bench-'))

  private constructor(child: ChildProcessWithoutNullStreams) {
    this.child = child
    createInterface(child.stdout).on('line', (line) => this.waiting.shift()?.(line))
  }

  static async start(): Promise<Native | null> {
    const child = spawn('/usr/bin/python3', ['-c', 'import cv2'])
    const code = await new Promise<number>((done) => {
      child.on('error', () => done(1))
      child.on('close', (c) => done(c ?? 1))
    })
    return code === 0 ? new Native(spawn('/usr/bin/python3', [script])) : null
  }

  private ask(message: unknown): Promise<{ seconds: number | null; mean?: number }> {
    return new Promise((done, fail) => {
      this.waiting.push((line) => done(JSON.parse(line) as { seconds: number | null }))
      this.child.setMaxListeners(0)
      this.child.once('exit', () => fail(new Error('the reference process ended')))
      this.child.stdin.write(`${JSON.stringify(message)}\n`)
    })
  }

  async load(p: Picture): Promise<void> {
    const path = join(this.folder, 'picture.rgb')
    writeFileSync(path, p.pixels)
    await this.ask({ load: path, width: p.width, height: p.height })
  }

  /** CPU seconds of an operation, or null where this build has it not. */
  async seconds(op: string, more: Record<string, unknown> = {}): Promise<number | null> {
    return (await this.ask({ op, ...more })).seconds
  }

  close(): void {
    this.child.removeAllListeners('exit')
    this.child.kill()
    rmSync(this.folder, { recursive: true, force: true })
  }
}
