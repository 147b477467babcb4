import { blendModes } from '../blend/modes.ts'
import { formatParam, resolveLength, type ParamSpec } from './params/index.ts'
import { steps } from './registry.ts'
import { stepGroups } from './contract.ts'

// What every step must declare: the interface, the command line, the docs and the tests are drawn from it.

const every = steps.map((s) => [s.id, s] as const)
const params = steps.flatMap((s) => Object.entries(s.params).map(([name, spec]) => [`${s.id} ${name}`, spec, s] as const))

test('ids and titles are unlike each other, and every group has its steps', () => {
  expect(new Set(steps.map((s) => s.id)).size).toBe(steps.length)
  expect(new Set(steps.map((s) => s.title)).size).toBe(steps.length)
  for (const group of stepGroups) expect([group, steps.some((s) => s.group === group)]).toEqual([group, true])
})

test.each(every)('%s: an id for files and commands, a title, one sentence of help, the source of its method', (_, s) => {
  expect(s.id).toMatch(/^[a-z]+(-[a-z]+)*$/)
  expect(s.title).toMatch(/^[A-Z][a-z]/)
  expect(s.help).toMatch(/^[A-Z].*\.$/)
  expect(s.help.length).toBeLessThan(170)
  expect(s.method.length).toBeGreaterThan(10)
  expect(s.version).toBeGreaterThanOrEqual(1)
})

test.each(every)('%s: its defaults and its sample are values of its own', (_, s) => {
  expect(s.schema.parse({})).toEqual(s.defaults)
  const sample = { ...s.defaults, ...s.sample }
  expect(s.schema.parse(sample)).toEqual(sample)
  for (const name of Object.keys(s.sample ?? {})) expect(Object.keys(s.params)).toContain(name)
})

test.each(every)('%s: no two controls that are shown together have one title', (_, s) => {
  const all = Object.values(s.params)
  for (const [i, a] of all.entries())
    for (const b of all.slice(i + 1)) {
      const apart = a.when && b.when && a.when.param === b.when.param && !a.when.is.some((v) => b.when!.is.includes(v))
      if (!apart) expect(a.title).not.toBe(b.title)
    }
})

test.each(params)('%s: a title, a sentence of help, a default that can be shown, and a condition that can be met', (_, spec: ParamSpec, s) => {
  expect(spec.title).toMatch(/^[A-Z]/)
  expect(spec.help).toMatch(/^[A-Z].*\.$/)
  expect(spec.help.length).toBeLessThan(220)
  expect(formatParam(spec, spec.default).length).toBeGreaterThan(0)
  if (!spec.when) return
  const other = s.params[spec.when.param]!
  const possible = other.type === 'choice' ? other.options.map((o) => o.value) : ['true', 'false']
  for (const v of spec.when.is) expect(possible).toContain(v)
})

test.each(params.filter(([, spec]) => spec.type === 'number' || spec.type === 'length'))(
  '%s: its default lies in its range, what lies beyond is refused or held',
  (_, spec, s) => {
    const name = Object.keys(s.params).find((n) => s.params[n] === spec)!
    if (spec.type === 'number') {
      expect(spec.default).toBeGreaterThanOrEqual(spec.min)
      expect(spec.default).toBeLessThanOrEqual(spec.max)
      expect(s.schema.safeParse({ [name]: spec.max + 1 }).success).toBe(false)
      expect(s.schema.safeParse({ [name]: Number.NaN }).success).toBe(false)
    } else if (spec.type === 'length') {
      // on a photo of 2 megapixels and one of 24, at the trade's 300 ppi
      for (const reference of [1600, 6000]) {
        const at = resolveLength(spec, spec.default, { reference, ppi: 300 })
        expect(at).toBeGreaterThanOrEqual(spec.min)
        expect(at).toBeLessThanOrEqual(spec.max)
        expect(resolveLength(spec, { value: 1e6, unit: 'px' }, { reference, ppi: 300 })).toBe(spec.max)
        expect(resolveLength(spec, { value: 0, unit: 'mm' }, { reference, ppi: 300 })).toBe(spec.min)
      }
      expect(s.schema.safeParse({ [name]: { value: -1, unit: 'px' } }).success).toBe(false)
      expect(s.schema.safeParse({ [name]: { value: 1, unit: 'inch' } }).success).toBe(false)
    }
  },
)

test('the blend modes are those of W3C Compositing and Blending Level 1, by their names there, and three by arithmetic', () => {
  // https://www.w3.org/TR/compositing-1/#blending (from memory)
  const w3c = 'normal multiply screen overlay darken lighten color-dodge color-burn hard-light soft-light difference exclusion hue saturation color luminosity'
  expect([...blendModes].sort()).toEqual([...w3c.split(' '), 'add', 'subtract', 'divide'].sort())
  // kernels know them by number: documents hold names, golden pixels the numbers' meaning
  expect(blendModes.slice(16)).toEqual(['add', 'subtract', 'divide'])
})
