import { stepGroups, stepGroupTitles, type AnyStep } from './contract.ts'
import { formatParam, type ParamSpec } from './params/index.ts'
import { steps } from './registry.ts'

function rangeOf(p: ParamSpec): string {
  switch (p.type) {
    case 'length':
      return `${p.min} … ${p.max} px, or % or mm`
    case 'number':
      return p.unit === '%' ? `${Math.round(p.min * 100)} … ${Math.round(p.max * 100)} %` : `${p.min} … ${p.max}${p.unit === '°' ? '°' : ''}`
    case 'choice':
      return p.options.map((o) => o.title).join(', ')
    case 'palette':
    case 'bounds':
      return `up to ${p.max}`
    case 'flag':
      return 'on, off'
    default:
      return ''
  }
}

const part = (step: AnyStep): string[] => [
  `### ${step.title} (\`${step.id}\`)`,
  '',
  step.help,
  '',
  `_Method:_ ${step.method}.`,
  '',
  ...(Object.keys(step.params).length
    ? [
        '| value | | range | default | |',
        '| --- | --- | --- | --- | --- |',
        ...Object.entries(step.params).map(
          ([name, p]) =>
            `| \`${name}\` | ${p.title} | ${rangeOf(p)} | ${formatParam(p, p.default).replace('another mix', 'even').replace('another place', 'see help')} | ${p.help} |`,
        ),
        '',
      ]
    : []),
  ...Object.entries(step.inputs ?? {}).flatMap(([name, { title, help }]) => [`Reads another picture, \`${name}\` (${title}): ${help}`, '']),
]

/** The list of steps as docs/steps.md holds it: drawn from their declarations. */
export function stepsMarkdown(): string {
  return [
    '# Steps',
    '',
    'Drawn from the declarations in `core/src/steps`; not to be edited (`UPDATE_DOCS=1 npx jest steps-doc`). Every step also has a blend mode, an opacity and a tonal span.',
    '',
    ...stepGroups.flatMap((g) => {
      const of = steps.filter((s) => s.group === g)
      return of.length ? [`## ${stepGroupTitles[g]}`, '', ...of.flatMap(part)] : []
    }),
  ].join('\n')
}
