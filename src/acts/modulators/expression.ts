import { names, text, type ValueRef } from '../../shot'
import { defineModulator, say } from '../define'
import { readFormula } from '../expression'

type Named = ValueRef & { name: string }

/** A formula of time, frame, the keyed value and other values under names of one's own. */
export const expression = defineModulator({
  kind: 'expression',
  title: 'Expression',
  help: 'A formula of time, frame, the keyed value and other values.',
  synonyms: ['formula', 'script', 'equation', 'math'],
  params: {
    formula: text({
      label: 'Formula',
      default: 'keyed',
      help: 'Numbers, + − * / ^, functions, time, frame, keyed and your own names. Angles are degrees, lengths metres, times seconds.',
    }),
    names: names({ label: 'Names', default: [], help: 'Other values of the shot under short names for the formula.' }),
  },
  sentence: () => say`Is ${'formula'}.`,
  replaces: true,
  opens: () => true,
  refs: (p) => p.raw('names') as Named[],
  make(p, at) {
    const list = p.raw('names') as Named[]
    const f = readFormula(
      p.text('formula') ?? '',
      list.map((n) => n.name),
    )
    if (!f.ok) throw new Error(`its formula, at sign ${f.at + 1}: ${f.message}`)
    const by = new Map(list.filter((n) => f.names.includes(n.name)).map((n) => [n.name, at.value(n)]))
    return (t, keyed) => f.run({ time: t, frame: at.frame(t), keyed, named: (name) => (by.get(name) as (t: number) => number)(t) })
  },
})
