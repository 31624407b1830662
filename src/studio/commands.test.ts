import { beforeEach, describe, expect, it, vi } from 'vitest'
import { checkShot, layerOf } from '../acts'
import { demoShot } from '../acts/testing/shots'
import { problemText, type Shot } from '../shot'
import { add } from './adding'
import {
  addAnchor,
  addCamera,
  addForce,
  addGlow,
  addLight,
  addMask,
  addPlane,
  addPrimitive,
  addSystem,
  commands,
  elementsOf,
  makeSource,
  muteElement,
  noteSelection,
  removeElement,
  renameElement,
} from './commands'
import { newMask, newShot } from './create'
import { COMPANION_S, duplicateElement } from './duplicate'
import { byNumber, importFiles } from './importing'
import { addLayer, putIntoLayer } from './layers'
import { edit, loadStudio, redoStep, select, setPlayhead, shotNow, studio, undoStep, watchShot } from './store'
import { saidInToasts } from './testing/toasts'

const said = saidInToasts()

/** The demo, opened at its first frame. */
const demo = () => ({ ...demoShot(), opens: null })
let seen: Shot[]
beforeEach(() => {
  seen = []
  loadStudio('id', { id: 'p', name: 'Quay' }, demo())
  watchShot((s) => seen.push(s))
})
/** Whatever was done, the shot must still pass the door of the server. */
const sound = () => {
  const r = checkShot(structuredClone(shotNow()))
  expect(r.ok ? [] : r.problems.map(problemText)).toEqual([])
}
const labels = () => studio().line.past.map((s) => s.label)

describe('adding', () => {
  it.each([
    ['a plane', addPlane, 'objects'],
    ['an anchor', addAnchor, 'objects'],
    ['a light', addLight, 'lights'],
    ['a camera', addCamera, 'cameras'],
    ['a force', () => addForce('turbulence'), 'forces'],
    ['a system', () => addSystem(), 'systems'],
  ] as const)('%s selects it, keeps the shot sound, and is one step of undo', (_name, add, group) => {
    const before = shotNow()
    add()
    sound()
    expect(shotNow()[group].length).toBe(before[group].length + 1)
    expect(studio().selected).toBe(shotNow()[group].at(-1)?.id)
    expect(seen).toHaveLength(1)
    undoStep()
    expect(shotNow()).toEqual(before)
    expect(studio().selected).toBeNull()
    redoStep()
    expect(shotNow()[group].length).toBe(before[group].length + 1)
  })
  it('a mask is there once it is drawn; it goes with its camera to any', () => {
    addMask()
    expect(studio().outlining).toEqual({ mask: null, corners: [] })
    expect(studio().pose).toBeNull()
    const mask = newMask(shotNow())
    add('masks', mask)
    sound()
    expect(shotNow().masks[0].camera).toBe('camera')
    addCamera()
    removeElement('camera')
    expect(shotNow().masks[0].camera).toBeNull()
    sound()
    duplicateElement(mask.id)
    expect(shotNow().masks.map((m) => m.name)).toEqual(['Mask', 'Mask copy'])
    sound()
  })
  it('a glow is stuck to what is selected, or goes along it where that is a path', () => {
    select(null)
    addGlow()
    expect(shotNow().glows[0]).toMatchObject({ kind: 'disc', follows: null })
    select('anvil')
    addGlow()
    expect(shotNow().glows[1]).toMatchObject({ follows: 'anvil', place: [0, 0, 0], name: 'Glow 2' })
    addPrimitive('path')
    addGlow()
    expect(shotNow().glows[2]).toMatchObject({ kind: 'line', along: shotNow().objects.at(-1)?.id })
    sound()
    removeElement('anvil')
    expect(shotNow().glows[1].follows).toBeNull()
    sound()
  })
  it('a layer takes elements in and gives them back to the picture when it goes', () => {
    const id = addLayer() as string
    sound()
    expect(shotNow().layers.map((l) => l.name)).toEqual(['Picture', 'Layer'])
    putIntoLayer('sparks', id)
    putIntoLayer('anvil', 'new')
    sound()
    expect(shotNow().layers.map((l) => l.name)).toEqual(['Picture', 'Layer', 'Layer 2'])
    expect(layerOf(shotNow(), shotNow().systems[0])).toBe(id)
    expect(layerOf(shotNow(), shotNow().objects[0])).toBe(shotNow().layers[2].id)
    // A copy stays in it; what has no picture stays out.
    duplicateElement('sparks')
    expect(shotNow().systems[1].layer).toBe(id)
    putIntoLayer('camera', id)
    sound()
    removeElement(id)
    sound()
    expect(shotNow().systems.map((x) => layerOf(shotNow(), x))).toEqual(['picture', 'picture'])
    removeElement('picture')
    expect(shotNow().layers).toHaveLength(2)
    expect(said().text).toMatch(/^The picture’s layer stays/)
    for (let i = shotNow().layers.length; i < 16; i++) addLayer()
    expect(addLayer()).toBeNull()
    expect(said().text).toMatch(/^A shot has at most 16 layers/)
    sound()
  })
  it('names are never the same twice', () => {
    for (let i = 0; i < 3; i++) addSystem()
    expect(shotNow().systems.map((s) => s.name)).toEqual(['Sparks', 'Sparks 2', 'Sparks 3', 'Sparks 4'])
  })
  it('a new shot passes the door', () => {
    const r = checkShot(newShot('Bell toll'))
    expect(r.ok ? [] : r.problems.map(problemText)).toEqual([])
  })
})
describe('the source of a system', () => {
  it('goes to the system that was selected last, all births of it, and the object takes the role', () => {
    addSystem()
    const second = shotNow().systems[1].id
    noteSelection(second)
    noteSelection('stump')
    makeSource('stump')
    expect(shotNow().systems[1].birth.every((b) => b.source === 'stump' && b.part === '')).toBe(true)
    expect(shotNow().systems[0].birth[0].source).toBe('anvil')
    expect(shotNow().objects[1].roles.source).toBe(true)
    sound()
  })
  it('makes a system when there is none', () => {
    removeElement('sparks')
    makeSource('stump')
    expect(shotNow().systems).toHaveLength(1)
    expect(shotNow().systems[0].birth[0].source).toBe('stump')
    sound()
  })
})
describe('removing', () => {
  it('leaves no reference behind: births start in the middle, contacts take all colliders', () => {
    edit('with', (s) => {
      s.systems[0].whole.contact[0].with = 'anvil'
    })
    removeElement('anvil')
    expect(shotNow().systems[0].birth.map((b) => b.source)).toEqual([null, null])
    expect(shotNow().systems[0].whole.contact[0].with).toBeNull()
    sound()
  })
  it('a system goes from the list of those that a force reaches', () => {
    addForce('drag')
    edit('reaches', (s) => void (s.forces[0].reaches = ['sparks']))
    removeElement('sparks')
    expect(shotNow().forces[0].reaches).toEqual([])
    sound()
  })
  it('the last camera and the layer stay, and it says why', () => {
    const before = shotNow()
    removeElement('camera')
    expect(said()).toEqual({ text: expect.stringMatching(/^A shot needs at least one camera: add another/), problem: true })
    removeElement('picture')
    expect(shotNow()).toBe(before)
    addCamera()
    removeElement('camera')
    expect(shotNow().camera).toBe(shotNow().cameras[0].id)
    sound()
  })
})
describe('copies', () => {
  it('have ids and seeds of their own, down to every act', () => {
    duplicateElement('sparks')
    sound()
    const [a, b] = shotNow().systems
    expect(b.name).toBe('Sparks copy')
    expect(b.seed).not.toBe(a.seed)
    expect(b.birth.map((x) => x.seed)).not.toEqual(a.birth.map((x) => x.seed))
    expect(b.birth.map(({ id, seed, ...rest }) => rest)).toEqual(a.birth.map(({ id, seed, ...rest }) => rest))
    duplicateElement('anvil')
    duplicateElement('key')
    duplicateElement('camera')
    sound()
    const before = shotNow()
    duplicateElement('picture')
    expect(shotNow()).toBe(before)
  })
})
describe('copies of a set', () => {
  const wave = (offset: number, of?: string) => ({
    value: 0,
    modulators: [
      { id: `w${offset}`, kind: 'wave', seed: 9, mode: 'add' as const, height: 1, period: 2, offset, shape: 'sine' },
      ...(of
        ? [
            {
              id: `f${offset}`,
              kind: 'follow',
              seed: 3,
              mode: 'replace' as const,
              of: { element: of, value: 'world.0' },
              scale: 1,
              offset: 0,
              delay: 0,
            },
          ]
        : []),
    ],
  })
  beforeEach(() =>
    edit('set', (s) => {
      s.objects[1].parent = 'anvil'
      s.objects[0].place[0] = wave(0)
      s.objects[1].place[0] = wave(1, 'anvil')
      s.objects[1].place[1] = wave(2, 'kiln')
      s.objects[3].id = 'kiln'
    }),
  )
  const modulators = (o: (typeof seen)[0]['objects'][0], i: number) => (o.place[i] as { modulators: Record<string, unknown>[] }).modulators
  it('takes all that goes along; inner references lead to the copies, outer ones stay', () => {
    const n = shotNow().objects.length
    duplicateElement('anvil')
    const [a, b] = shotNow().objects.slice(n)
    expect([a.name, b.name]).toEqual(['Anvil copy', 'Stump copy'])
    expect(b.parent).toBe(a.id)
    expect(modulators(b, 0)[1].of).toEqual({ element: a.id, value: 'world.0' })
    expect(modulators(b, 1)[1].of).toEqual({ element: 'kiln', value: 'world.0' })
    expect(modulators(a, 0)[0].seed).not.toBe(9)
    sound()
    undoStep()
    expect(shotNow().objects).toHaveLength(n)
  })
  it('a companion keeps the seeds and runs ahead; the same is the same', () => {
    const n = shotNow().objects.length
    duplicateElement('anvil', 'companion')
    duplicateElement('anvil', 'same')
    const [companion, , same] = shotNow().objects.slice(n)
    expect(companion.name).toBe('Anvil companion')
    expect(companion.seed).toBe(shotNow().objects[0].seed)
    expect(modulators(companion, 0)[0]).toMatchObject({ seed: 9, offset: COMPANION_S })
    expect(modulators(same, 0)[0]).toMatchObject({ seed: 9, offset: 0 })
    sound()
  })
  it('an expression that reads an act of its own system reads that of the copy', () => {
    edit('link', (s) => {
      ;(s.systems[0].whole.movement[0] as Record<string, unknown>).strength = {
        value: 1,
        modulators: [
          {
            id: 'x',
            kind: 'follow',
            seed: 3,
            mode: 'replace',
            of: { element: 'sparks', value: `acts.${s.systems[0].birth[1].id}.rate` },
            scale: 1,
            offset: 0,
            delay: 0,
          },
        ],
      }
    })
    duplicateElement('sparks')
    const copy = shotNow().systems[1]
    expect((copy.whole.movement[0].strength as { modulators: { of: unknown }[] }).modulators[0].of).toEqual({
      element: copy.id,
      value: `acts.${copy.birth[1].id}.rate`,
    })
    sound()
  })
})
describe('small things', () => {
  it('mute and rename are steps with a name', () => {
    muteElement('anvil')
    expect(shotNow().objects[0].muted).toBe(true)
    muteElement('anvil')
    renameElement('anvil', '  Forge anvil <b> ')
    renameElement('anvil', '   ')
    renameElement('nobody', 'x')
    expect(shotNow().objects[0].name).toBe('Forge anvil <b>')
    expect(labels()).toEqual(['Anvil off', 'Anvil on', 'name of Forge anvil <b>'])
    sound()
  })
  it('undo says what it undid', () => {
    muteElement('anvil')
    undoStep()
    expect(said().text).toBe('Undone: Anvil off')
    redoStep()
    expect(said().text).toBe('Redone: Anvil off')
    undoStep()
    undoStep()
    expect(shotNow()).toEqual(demo())
  })
  it('the playhead stays inside the shot, also when the shot gets shorter', () => {
    setPlayhead(500)
    expect(studio().playhead).toBe(72)
    edit('shorter', (s) => void (s.range.last = 30))
    expect(studio().playhead).toBe(30)
    setPlayhead(-5)
    expect(studio().playhead).toBe(0)
  })
  it('selecting closes the open card', () => {
    select('anvil')
    expect(studio()).toMatchObject({ selected: 'anvil', open: null })
  })
  it('every command and every element can be found by a name, no shortcut is taken twice', () => {
    const list = commands()
    const keys = list.flatMap((c) => (c.keys ? [c.keys] : []))
    expect(new Set(keys).size).toBe(keys.length)
    expect(new Set(list.map((c) => c.name)).size).toBe(list.length)
    expect(elementsOf(shotNow()).length).toBe(6 + 1 + 1 + 3 + 1 + 1)
  })
})
describe('bringing a file in', () => {
  const answer = (status: number, data: unknown) => vi.stubGlobal('fetch', async () => Response.json(data, { status }))
  it('makes a collider of it, keeps its name apart from its hash, and says its size', async () => {
    answer(201, {
      hash: 'd'.repeat(64),
      name: 'bell.obj',
      bytes: 9,
      info: {
        triangles: 1234,
        vertices: 9,
        bounds: { min: [0, 0, 0], max: [1, 2, 0.5] },
        closed: true,
        parts: [],
        notes: ['not taken over: material names (2)'],
      },
    })
    await importFiles([new File(['x'], 'bell.obj')])
    expect(shotNow().objects.at(-1)).toMatchObject({
      name: 'bell',
      shape: { kind: 'mesh', asset: 'd'.repeat(64) },
      roles: { source: false, collider: true },
    })
    expect(shotNow().assets).toContainEqual({ hash: 'd'.repeat(64), name: 'bell.obj' })
    expect(said().text).toBe('bell: 1,234 triangles, 1.00 × 2.00 × 0.500 m. not taken over: material names (2).')
    sound()
    vi.unstubAllGlobals()
  })
  it('asks whether a very large one is in centimetres, and takes nothing from a refused one', async () => {
    answer(201, {
      hash: 'e'.repeat(64),
      name: 'ferry.glb',
      bytes: 9,
      info: { triangles: 2, vertices: 4, bounds: { min: [0, 0, 0], max: [900, 300, 200] }, closed: false, parts: [], notes: [] },
    })
    await importFiles([new File(['x'], 'ferry.glb')])
    expect(said().text).toContain('is its unit the centimetre or the millimetre?')
    const before = shotNow()
    answer(422, { error: 'x.obj: line 3: a face needs at least three corners' })
    await importFiles([new File(['x'], 'x.obj')])
    expect(shotNow()).toBe(before)
    expect(said()).toEqual({ text: 'x.obj: line 3: a face needs at least three corners', problem: true })
    vi.unstubAllGlobals()
  })
})

describe('files that are brought in together', () => {
  const names = (...list: string[]) => list.map((n) => new File(['x'], n))
  it('are the poses of one mesh when only their numbers differ, in the order of the numbers', () => {
    const { single, sequences } = byNumber(names('flag_10.obj', 'flag_9.obj', 'bell.obj', 'flag_8.OBJ'))
    expect(sequences.map((s) => [s.name, s.files.map((f) => f.name)])).toEqual([['flag', ['flag_8.OBJ', 'flag_9.obj', 'flag_10.obj']]])
    expect(single.map((f) => f.name)).toEqual(['bell.obj'])
  })
  it('stay apart when they are two, or of different kinds', () => {
    expect(byNumber(names('tent1.obj', 'tent2.obj')).sequences).toEqual([])
    expect(byNumber(names('a1.obj', 'a2.ply', 'a3.stl')).sequences).toEqual([])
    expect(byNumber(names('1.obj', '2.obj', '3.obj')).sequences[0].name).toBe('Mesh')
  })
})
