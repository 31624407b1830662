import { CONDITION_ROWS } from '../engine'
import { type ActDoc, GROUPS, type Shot } from '../shot'
import { FONTS } from './builtShapes'
import { type ReferenceTo, references } from './references'
import { records, recordsOf } from './walk'

export interface Issue {
  path: PropertyKey[]
  message: string
}
/** What the types of the document cannot say: ids are unique, and references lead somewhere. */
export const documentIssues = (shot: Shot): Issue[] => [...idIssues(shot), ...phaseIssues(shot), ...referenceIssues(shot)]

function idIssues(shot: Shot): Issue[] {
  const issues: Issue[] = []
  const seen = new Set<string>()
  const take = (id: string, path: PropertyKey[]) => {
    if (seen.has(id)) issues.push({ path: [...path, 'id'], message: `${id} is the id of something else already` })
    seen.add(id)
  }
  for (const group of GROUPS) for (const [i, e] of shot[group].entries()) take(e.id, [group, i])
  for (const [i, l] of shot.shared.looks.entries()) take(l.id, ['shared', 'looks', i])
  for (const [i, f] of shot.folders.entries()) take(f.id, ['folders', i])
  for (const r of records(shot)) if (r.sort) take(r.record.id as string, [...r.path])
  for (const [i, o] of shot.objects.entries())
    for (const [k, r] of o.regions.entries())
      if (o.regions.findIndex((x) => x.id === r.id) !== k)
        issues.push({ path: ['objects', i, 'regions', k, 'id'], message: `${r.id} is the id of another region of this object already` })
  return issues
}
/** Phases have ids of their own within a system, and what names one names one of them; conditions fit into the rows that kernels have. */
function phaseIssues(shot: Shot): Issue[] {
  const lost = shot.systems.flatMap((s, i) =>
    recordsOf('systems', s, i).flatMap((r) =>
      Object.entries(r.params).flatMap(([name, p]): Issue[] => {
        const id = r.record[name]
        return p.type === 'phase' && id !== '' && !s.phases.some((x) => x.id === id)
          ? [{ path: [...r.path, name], message: `no phase of this system has the id ${id}` }]
          : []
      }),
    ),
  )
  const rowsOf = (whens: readonly ActDoc[]): number => Math.max(1, ...whens.map((c, k) => k + rowsOf(c.when ?? [])))
  const others = shot.systems.flatMap((s, i) =>
    s.phases.flatMap((p, k): Issue[] => {
      const path = ['systems', i, 'phases', k]
      return [
        ...(s.phases.findIndex((x) => x.id === p.id) === k
          ? []
          : [{ path: [...path, 'id'], message: `${p.id} is the id of another phase of this system already` }]),
        ...p.turns.flatMap((t, n): Issue[] => [
          ...(rowsOf(t.when ?? []) > CONDITION_ROWS
            ? [
                {
                  path: [...path, 'turns', n, 'when'],
                  message: `more than ${CONDITION_ROWS} conditions are open at once; put fewer groups into each other`,
                },
              ]
            : []),
        ]),
      ]
    }),
  )
  return [...lost, ...others]
}
function referenceIssues(shot: Shot): Issue[] {
  const ids = (list: readonly { id: string }[]) => list.map((x) => x.id)
  const hashes = shot.assets.map((a) => a.hash)
  const [objects, systems] = [ids(shot.objects), ids(shot.systems)]
  /** What each kind of reference may lead to, and what to say when it does not; the others are said when they are used. */
  const targets: { [T in ReferenceTo]?: { ids: Set<string>; say: (id: string) => string } } = {
    object: { ids: new Set(objects), say: (id) => `no object has the id ${id}` },
    system: { ids: new Set(systems), say: (id) => `no system has the id ${id}` },
    source: { ids: new Set([...objects, ...systems]), say: (id) => `no object or system has the id ${id}` },
    lit: { ids: new Set([...objects, ...systems, ...ids(shot.gases)]), say: (id) => `no object, system or gas has the id ${id}` },
    stuck: { ids: new Set([...objects, ...systems, ...ids(shot.lights)]), say: (id) => `no object, system or light has the id ${id}` },
    gas: { ids: new Set(ids(shot.gases)), say: (id) => `no gas has the id ${id}` },
    look: { ids: new Set(ids(shot.shared.looks)), say: (id) => `no look has the id ${id}` },
    camera: { ids: new Set(ids(shot.cameras)), say: (id) => `no camera has the id ${id}` },
    mask: { ids: new Set(ids(shot.masks)), say: (id) => `no mask has the id ${id}` },
    layer: { ids: new Set(ids(shot.layers)), say: (id) => `no layer has the id ${id}` },
    folder: { ids: new Set(ids(shot.folders)), say: (id) => `no folder has the id ${id}` },
    asset: { ids: new Set(hashes), say: () => 'is not in the list of assets' },
    font: {
      ids: new Set([...hashes, ...FONTS.map((f) => f.id)]),
      say: () => 'is neither a font that is shipped nor in the list of assets',
    },
  }
  return references(shot).flatMap(({ to, id, path }) => {
    const target = targets[to]
    return target && !target.ids.has(id) ? [{ path: [...path], message: target.say(id) }] : []
  })
}
