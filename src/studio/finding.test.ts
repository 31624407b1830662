import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ACTS, actOf, checkShot } from '../acts'
import { demoShot } from '../acts/testing/shots'
import { problemText } from '../shot'
import { addForce, addLight, addSystem } from './commands'
import { newShot } from './create'
import { addWhereItBelongs, everything, find } from './finding'
import { edit, loadStudio, select, setStudio, shotNow, studio } from './store'

const said = vi.hoisted(() => vi.fn<(text: string, problem?: boolean) => void>())
const gone = vi.hoisted(() => vi.fn<(label: string, within?: string) => void>())
vi.mock('./toast', () => ({ toast: said }))
vi.mock('./goTo', () => ({ goToField: gone }))
beforeEach(() => {
  said.mockClear()
  gone.mockClear()
  loadStudio('id', { id: 'p', name: 'Quay' }, { ...demoShot(), opens: null })
})
const sound = () => {
  const r = checkShot(structuredClone(shotNow()))
  expect(r.ok ? [] : r.problems.map(problemText)).toEqual([])
}
const names = (query: string) => find(query, 6).map((x) => x.name)
const firstSystem = () => shotNow().systems[0]

describe('Ctrl+K finds by the words of the trade', () => {
  it.each([
    ['emitter', actOf('steady').title],
    ['noise', 'Turbulence'],
    ['collision', 'Bounce'],
    ['lifetime', 'Life'],
    ['attractor', actOf('attract').title],
    ['colour', 'Over life'],
    ['color', 'Over life'],
    ['rate', 'Rate'],
    ['bloom', 'Bloom'],
    ['background', 'Background of the shot …'],
    ['fps', 'Frame rate of the shot …'],
    ['duration', 'Last frame of the shot …'],
    ['export', 'Render …'],
    ['trubulence', 'Turbulence'],
  ])('%s leads to %s', (query, name) => {
    select(firstSystem().id)
    expect(names(query)).toContain(name)
  })
  it('kill finds what ends lives', () => {
    const kinds = ACTS.filter((a) => a.sort === 'ending').map((a) => a.title)
    expect(names('kill').some((n) => kinds.includes(n))).toBe(true)
  })
  it('every act that can stand by itself is found by its title, first or second', () => {
    for (const x of everything().filter((f) => f.key.startsWith('act '))) {
      expect(
        find(x.name, 3).map((f) => f.name),
        x.name,
      ).toContain(x.name)
    }
  })
  it('nothing is found for nonsense, and without a query nothing but elements and commands is listed', () => {
    expect(find('zqxjv')).toEqual([])
    expect(find('').every((x) => !x.key.startsWith('act ') && !x.key.startsWith('value '))).toBe(true)
  })
  it('a parameter opens its card and goes to its input', () => {
    select(firstSystem().id)
    const gravity = firstSystem().whole.movement.find((a) => a.kind === 'gravity')
    const strength = Object.values(actOf('gravity').params)[0].label
    find(strength, 60)
      .find((x) => x.key.startsWith(`value ${gravity?.id}`))
      ?.run()
    expect(studio().open).toBe(gravity?.id)
    expect(gone).toHaveBeenCalledWith(strength, expect.stringContaining(actOf('gravity').title))
  })
})
describe('what is added goes where it belongs', () => {
  it('each act into its list, or says what to select', () => {
    for (const a of ACTS.filter((x) => ['source', 'force', 'contact', 'ending', 'look'].includes(x.sort))) {
      loadStudio('id', { id: 'p', name: 'Quay' }, { ...demoShot(), opens: null })
      select(firstSystem().id)
      const before = JSON.stringify(firstSystem()).length
      addWhereItBelongs(a.kind)
      sound()
      expect(JSON.stringify(firstSystem()).length, a.kind).toBeGreaterThan(before)
      expect(studio().open).not.toBeNull()
    }
  })
  it('a reshape step needs an object', () => {
    select(null)
    addWhereItBelongs('twist')
    expect(said).toHaveBeenCalledWith(expect.stringContaining('Select an object first'), true)
    select(shotNow().objects[0].id)
    addWhereItBelongs('twist')
    expect(shotNow().objects[0].reshape.at(-1)?.kind).toBe('twist')
    sound()
  })
  it('a new system begins at the selected object, else at the only source', () => {
    const shot = shotNow()
    const object = shot.objects.at(-1)
    select(object?.id ?? null)
    addSystem()
    expect(shotNow().systems.at(-1)?.birth[0].source).toBe(object?.id)
    loadStudio('id', { id: 'p', name: 'Quay' }, newShot('Bell toll'))
    addSystem()
    expect(shotNow().systems.at(-1)?.birth[0].source).toBeNull()
    edit('source', (s) => {
      s.objects[0].roles.source = true
    })
    select(null)
    addSystem()
    expect(shotNow().systems.at(-1)?.birth[0].source).toBe(shotNow().objects[0].id)
    sound()
  })
  it('a force with a place and a light land at the selected element', () => {
    edit('place', (s) => {
      s.objects[0].parent = null
      s.objects[0].place = [3, 1, -2]
    })
    setStudio({ selected: shotNow().objects[0].id })
    addForce('attract')
    expect(shotNow().forces.at(-1)?.act.place).toEqual([3, 1, -2])
    setStudio({ selected: shotNow().objects[0].id })
    addLight()
    expect(shotNow().lights.at(-1)?.aim).toEqual([3, 1, -2])
    sound()
  })
})
