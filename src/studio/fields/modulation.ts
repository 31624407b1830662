import { actOf, actOfSort } from '../../acts'
import { defaultsOf, type ModulatorDoc, modulatorsOf, newId, newSeed, type Param, withModulators } from '../../shot'
import { type Bind, inner, rewrap } from './bind'

/** Numbers, their components, and colours can be moved; switches and choices have keys alone. */
export const canMove = (b: Bind): boolean =>
  'animated' in b.param &&
  !!b.param.animated &&
  (b.param.type === 'number' || b.param.type === 'vector' || b.param.type === 'colour') &&
  b.value !== null

export interface Site {
  bind: Bind
  /** Of a vector: 0, 1 or 2. */
  component: number | undefined
}
export const sitesOf = (b: Bind): Site[] =>
  !canMove(b)
    ? []
    : b.param.type === 'vector'
      ? [0, 1, 2].map((component) => ({ bind: b, component }))
      : [{ bind: b, component: undefined }]
export const modulatorsAt = ({ bind, component }: Site): ModulatorDoc[] => modulatorsOf(inner(bind, component))
export const siteName = ({ bind, component }: Site): string => bind.param.label + (component === undefined ? '' : ` ${'XYZ'[component]}`)

function rewrite({ bind, component }: Site, label: string, list: ModulatorDoc[], gesture: string | null): void {
  bind.write(label, rewrap(bind, withModulators(inner(bind, component), list), component), gesture)
}
/** The usual size of a change, in the unit of the value: a modulator should be seen at once, and not blow the picture apart. */
const usual = (p: Param): number => {
  if (p.type === 'number') return p.soft ? Number(((p.soft[1] - p.soft[0]) / 10).toPrecision(1)) : 1
  return p.type === 'vector' ? (p.unit === '°' ? 20 : p.unit === '×' ? 0.2 : 0.3) : 0.3
}
export function addModulator(site: Site, kind: string): void {
  const act = actOfSort(kind, 'modulator')
  const list = modulatorsAt(site)
  const size = 'height' in act.params ? { height: usual(site.bind.param) } : {}
  const made: ModulatorDoc = {
    id: newId(kind),
    kind,
    seed: newSeed(),
    mode: act.replaces ? 'replace' : 'add',
    ...defaultsOf(act.params),
    ...size,
  }
  rewrite(site, `${act.title.toLowerCase()} on ${siteName(site).toLowerCase()}`, [...list, made], null)
}
export function changeModulator(site: Site, id: string, label: string, values: Record<string, unknown>, gesture: string | null): void {
  rewrite(
    site,
    label,
    modulatorsAt(site).map((m) => (m.id === id ? ({ ...m, ...values } as ModulatorDoc) : m)),
    gesture,
  )
}
export function dropModulator(site: Site, id: string): void {
  rewrite(
    site,
    `modulator of ${siteName(site).toLowerCase()}`,
    modulatorsAt(site).filter((m) => m.id !== id),
    null,
  )
}
/** Binds of a modulator's own parameters; what has no unit of its own has that of the value it moves. */
export function modulatorBinds(site: Site, m: ModulatorDoc): Record<string, Bind> {
  const own = site.bind.param
  // Multiplied, a swing is a share of the value.
  const unit = m.mode === 'multiply' ? '×' : 'unit' in own ? own.unit : ''
  return Object.fromEntries(
    Object.entries(actOf(m.kind).params).map(([name, p]): [string, Bind] => {
      const param: Param =
        p.type === 'number' && p.unit === ''
          ? { ...p, unit, soft: 'soft' in own && own.soft ? [-(own.soft[1] - own.soft[0]), own.soft[1] - own.soft[0]] : p.soft }
          : p
      return [
        name,
        {
          param,
          name,
          value: m[name],
          owner: m,
          write: (label, value, gesture) =>
            changeModulator(site, m.id, `${actOf(m.kind).title} of ${siteName(site).toLowerCase()}, ${label}`, { [name]: value }, gesture),
        },
      ]
    }),
  )
}
