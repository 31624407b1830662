import * as z from 'zod'
import {
  type ActDoc,
  colour,
  colourSchema,
  curveSchema,
  MARKS,
  migrate,
  numberSchema,
  once,
  type Params,
  type Problem,
  paramSchema,
  problemsOf,
  SHOT_VERSION,
  type Shot,
  shapeOf,
} from '../shot'
import { OUTLINE_PARAMS, TEXT_PARAMS } from './builtShapes'
import { documentIssues } from './check'
import type { Sort } from './define'
import { BODY_PARAMS, CAMERA_PARAMS, CONTROL_PARAMS, OBJECT_PARAMS, SYSTEM_PARAMS } from './elementParams'
import { GAS_PARAMS } from './gasParams'
import { dyeTones } from './gasTones'
import { GLOW_PARAMS } from './glowParams'
import { LAYER_PARAMS } from './layerParams'
import { LIGHT_PARAMS } from './lightParams'
import { MOST_MAPPINGS } from './mapped'
import { MASK_PARAMS } from './maskParams'
import { MATERIAL_PARAMS } from './materialParams'
import { actOfSort, actsOfSort } from './registry'
import { PRIMITIVES } from './shapes'
import { SKY_PARAMS } from './skyParams'

const isMapping = (a: ActDoc): boolean => actOfSort(a.kind, 'look').role === 'mapping'
/** An act, and what else its records hold. */
type Kinded = readonly [{ kind: string; params: Params }, Record<string, z.ZodType>]
type OfKind = z.ZodObject<{ kind: z.ZodLiteral<string> }>
/** One of several records, told apart by their kind. */
const byKind = (records: readonly OfKind[], kinds: readonly string[]) =>
  z.discriminatedUnion('kind', [...records] as [OfKind, ...OfKind[]], { error: `kind must be one of ${kinds.join(', ')}` })
/** The types of the shot document, made from the list of acts when the first document is checked; ids and references are checked behind them. */
export const shotTypes = once(() => {
  const text = (what: string) => z.string({ error: `must be ${what}` }).max(200, { error: 'must be at most 200 characters' })
  const id = z
    .string({ error: 'must be an id' })
    .regex(/^[A-Za-z0-9._-]{1,64}$/, { error: 'must be 1 to 64 letters, digits, dots, dashes or underscores' })
  const name = text('a name').min(1, { error: 'must not be empty' })
  const seed = numberSchema({ min: 0, max: 4294967295, integer: true })
  const flag = z.boolean({ error: 'must be true or false' })
  const element = {
    id,
    name,
    muted: flag.optional(),
    seed,
    folder: id.optional(),
    mark: z.enum(MARKS, { error: `must be one of ${MARKS.join(', ')}` }).optional(),
  }

  const modulators = actsOfSort('modulator')
  const modulator = byKind(
    modulators.map((a) =>
      z.strictObject({
        id,
        kind: z.literal(a.kind),
        seed,
        muted: flag.optional(),
        mode: z.enum(['add', 'multiply', 'replace'], { error: 'must be add, multiply or replace' }),
        ...shapeOf(a.params),
      }),
    ),
    modulators.map((a) => a.kind),
  )
  const moving = (params: Params) => shapeOf(params, modulator)
  const acts = new Map<string, z.ZodType>()
  const act = (...sorts: Sort[]): z.ZodType => {
    const made = acts.get(sorts.join()) ?? newAct(sorts)
    acts.set(sorts.join(), made)
    return made
  }
  const newAct = (sorts: Sort[]): z.ZodType => ofThese(sorts.flatMap((s) => actsOfSort(s)))
  const limits = (of: z.ZodType) => ({
    limits: z.array(of, { error: 'must be a list' }).max(16, { error: 'must be at most 16' }).default([]),
  })
  const actOfKind = (a: { kind: string; params: Params }, more: Record<string, z.ZodType> = {}) =>
    z.strictObject({ id, kind: z.literal(a.kind), seed, muted: flag.optional(), ...moving(a.params), ...more })
  const ofKinds = (list: readonly Kinded[]) =>
    byKind(
      list.map(([a, more]) => actOfKind(a, more)),
      list.map(([a]) => a.kind),
    )
  const ofThese = (list: readonly { kind: string; params: Params }[]) => ofKinds(list.map((a) => [a, {}]))
  /** A force may be limited. */
  const force = once((): z.ZodType => ofKinds(actsOfSort('force').map((a) => [a, limits(act('limit'))])))
  const gasLimit = once(
    (): z.ZodType =>
      ofKinds(
        actsOfSort('limit')
          .filter((a) => a.ofPlaces)
          .map((a) => [a, {}]),
      ),
  )
  /** What moves a gas: forces that it feels, and how it flows. */
  const gasForce = once(
    (): z.ZodType =>
      ofKinds([
        ...actsOfSort('force')
          .filter((a) => a.movesGas)
          .map((a) => [a, limits(gasLimit())] as const),
        ...actsOfSort('flow')
          .filter((a) => !a.burns)
          .map((a) => [a, {}] as const),
      ]),
  )
  const trailing = actsOfSort('offspring').filter((a) => a.trail || a.growth)
  /** Particles carry no surface. */
  const ofParticles = ofThese(actsOfSort('offspring').filter((a) => !a.growth))
  const section = {
    movement: z.array(force()),
    contact: z.array(act('contact', 'ending')),
    offspring: z.array(ofParticles),
    look: z.array(act('look')).refine((list) => (list as ActDoc[]).filter(isMapping).length <= MOST_MAPPINGS / 2, {
      error: `holds more than ${MOST_MAPPINGS / 2} mappings; join some of them, or give a phase its own`,
    }),
  }
  const whens = (kinds: z.ZodType) => z.array(kinds, { error: 'must be a list' }).max(12, { error: 'must be at most 12' }).default([])
  /** Objects have no phases and no children: what follows a way is for them. */
  const ofObjects = ofThese(trailing)
  /** Conditions are acts of their own sort, or limits, which are true where they let at least half through. Groups hold others. */
  const condition: z.ZodType = z.lazy(
    once(() => {
      const list = [...actsOfSort('condition'), ...actsOfSort('limit')]
      return ofKinds(list.map((a): Kinded => [a, 'groups' in a && a.groups ? { when: whens(condition) } : {}]))
    }),
  )
  const turn = (): z.ZodType => ofKinds(actsOfSort('turn').map((a) => [a, { when: whens(condition) }]))

  const flowing = actsOfSort('flow')
  const at01 = numberSchema({ min: 0, max: 1 })
  const ramp = () =>
    z.strictObject({
      stops: z
        .array(z.strictObject({ at: at01, colour: colourSchema() }))
        .min(1, { error: 'needs at least one stop' })
        .max(64),
      smooth: flag.optional(),
      steps: flag.optional(),
    })
  const tone = () =>
    z.strictObject({
      top: numberSchema({ min: 1e-6, max: 1e6 }),
      curve: curveSchema(1000).refine((c) => c.points.some((p) => p.at === 0 && p.v === 0), { error: 'its first point must be 0 at 0' }),
      colour: ramp(),
    })
  const hash = z.string({ error: 'must be the hash of an asset' }).regex(/^[0-9a-f]{64}$/, { error: 'must be a SHA-256 in lower-case hex' })
  const mesh = z.strictObject({
    kind: z.literal('mesh'),
    asset: hash,
    unit: numberSchema({ min: 1e-6, max: 1e6 }).default(1),
    up: z.enum(['y', 'z'], { error: 'must be y or z' }).default('y'),
    poses: z.array(hash, { error: 'must be a list of hashes' }).max(2000).default([]),
    rate: numberSchema({ min: 0.01, max: 1000 }).default(24),
    start: numberSchema({ min: -3600, max: 36000 }).default(0),
    speed: numberSchema({ min: 0.001, max: 1000 }).default(1),
    after: z.enum(['hold', 'repeat'], { error: 'must be hold or repeat' }).default('hold'),
  })
  const shape = byKind(
    [
      mesh,
      z.strictObject({ kind: z.literal('plane'), size: numberSchema({ min: 0.001 }), endless: flag }),
      z.strictObject({ kind: z.literal('anchor') }),
      z.strictObject({ kind: z.literal('group') }),
      z.strictObject({ kind: z.literal('text'), ...shapeOf(TEXT_PARAMS) }),
      z.strictObject({ kind: z.literal('outline'), asset: hash, ...shapeOf(OUTLINE_PARAMS) }),
      ...PRIMITIVES.map((p) => z.strictObject({ kind: z.literal(p.kind), ...moving(p.params) })),
    ],
    ['mesh', 'text', 'outline', 'plane', 'anchor', 'group', ...PRIMITIVES.map((p) => p.kind)],
  )
  const list = <T extends z.ZodType>(s: T) => z.array(s, { error: 'must be a list' })
  const whole = (min: number, max: number) => numberSchema({ min, max, integer: true })

  return z.strictObject({
    version: z.literal(SHOT_VERSION),
    name,
    rate: z.strictObject({ num: whole(1, 1000000), den: whole(1, 100000) }),
    range: z
      .strictObject({ first: whole(0, 1000000), last: whole(0, 1000000) })
      .refine((r) => r.last >= r.first, { error: 'the last frame must not be before the first' }),
    opens: whole(0, 1000000).nullable().default(null),
    size: z.strictObject({ width: whole(16, 8192), height: whole(16, 8192) }),
    seed,
    substeps: whole(1, 64),
    warm: numberSchema({ min: 0, max: 3600 }).default(0),
    loop: z
      .strictObject({ cross: numberSchema({ min: 0, max: 60 }) })
      .nullable()
      .default(null),
    surroundings: z.strictObject({
      colour: colourSchema(),
      light: paramSchema(colour({ label: '', help: '', default: [0.1, 0.1, 0.1], animated: true })),
      sky: z.strictObject(moving(SKY_PARAMS)).nullable().optional(),
    }),
    camera: id,
    objects: list(
      z.strictObject({
        ...element,
        shape,
        parent: id.nullable().default(null),
        ...moving(OBJECT_PARAMS),
        shadow: flag,
        roles: z.strictObject({ source: flag, collider: flag }),
        layer: id.nullable().default(null),
        body: z.strictObject(moving(BODY_PARAMS)).nullable().default(null),
        reshape: list(act('reshape')).default([]),
        copies: list(act('copies')).default([]),
        regions: list(z.strictObject({ id, name, acts: list(act('region')) })).default([]),
        offspring: list(ofObjects).default([]),
        shown: z.enum(['full', 'wire', 'box'], { error: 'must be full, wire or box' }).default('full'),
        material: z.strictObject(moving(MATERIAL_PARAMS)),
      }),
    ),
    systems: list(
      z.strictObject({
        ...element,
        ...moving(SYSTEM_PARAMS),
        birth: list(act('source')),
        whole: z.strictObject(section),
        space: id.nullable().default(null),
        copies: list(act('copies')).default([]),
        phases: z
          .array(
            z.strictObject({ id, name, blend: numberSchema({ min: 0, max: 3600 }).default(0), ...section, turns: z.array(turn()).max(16) }),
          )
          .min(1, { error: 'must have at least one phase' })
          .max(30, { error: 'must be at most 30 phases' }),
        layer: id.nullable().default(null),
      }),
    ),
    forces: list(
      z.strictObject({
        ...element,
        act: force(),
        reaches: z.union([z.literal('all'), z.array(id)]),
        shares: list(z.strictObject({ system: id, share: numberSchema({ min: 0, max: 100 }) })).default([]),
      }),
    ),
    gases: list(
      z.strictObject({
        ...element,
        ...moving(GAS_PARAMS),
        rides: id.nullable().default(null),
        layer: id.nullable().default(null),
        feeds: list(act('feed')),
        motion: list(gasForce()),
        burning: list(ofThese(flowing.filter((a) => a.burns))),
        look: list(act('gasLook')),
        tones: z.strictObject({
          ...{ density: tone(), temperature: tone(), flame: tone() },
          dyeA: tone().default(() => dyeTones().dyeA),
          dyeB: tone().default(() => dyeTones().dyeB),
        }),
      }),
    ),
    lights: list(
      z.strictObject({
        ...element,
        ...moving(LIGHT_PARAMS),
        asset: hash.nullable().default(null),
        above: colourSchema().default([0, 0, 0]),
        below: colourSchema().default([0, 0, 0]),
        shares: list(
          z.strictObject({ of: id, share: numberSchema({ min: 0, max: 10000 }).default(100), shadow: flag.default(true) }),
        ).default([]),
      }),
    ),
    cameras: list(z.strictObject({ ...element, ...moving(CAMERA_PARAMS) })).min(1, { error: 'needs at least one camera' }),
    glows: list(z.strictObject({ ...element, ...moving(GLOW_PARAMS), layer: id.nullable().default(null) })).default([]),
    masks: list(z.strictObject({ ...element, ...moving(MASK_PARAMS) })).default([]),
    layers: list(z.strictObject({ ...element, ...moving(LAYER_PARAMS), finish: z.array(act('finish')) }))
      .min(1, { error: 'must have at least one layer: the first is the picture' })
      .max(16, { error: 'must be at most 16 layers' }),
    controls: list(
      z.strictObject({ ...element, ...moving(CONTROL_PARAMS), unit: z.string({ error: 'must be text' }).max(12).default('') }),
    ),
    folders: list(z.strictObject({ id, name })).default([]),
    shared: z.strictObject({
      looks: list(z.strictObject({ id, name, colour: ramp(), size: curveSchema(1000), opacity: curveSchema(1) })),
    }),
    assets: list(z.strictObject({ hash, name })),
  })
})
/** The strict schema of the shot document, made from the list of acts. */
const shotSchema = once(() =>
  shotTypes().superRefine((shot, ctx) => {
    for (const issue of documentIssues(shot as unknown as Shot)) ctx.addIssue({ code: 'custom', ...issue })
  }),
)

export type Checked = { ok: true; shot: Shot; migratedFrom: number | null } | { ok: false; problems: Problem[] }

/** The door for every document: migrates it, checks it, fills in defaults. */
export function checkShot(doc: unknown): Checked {
  const m = migrate(doc)
  if (!m.ok) return { ok: false, problems: [{ path: '', message: m.problem }] }
  const r = shotSchema().safeParse(m.doc)
  return r.success
    ? { ok: true, shot: r.data as unknown as Shot, migratedFrom: m.from < SHOT_VERSION ? m.from : null }
    : { ok: false, problems: problemsOf(r.error) }
}
/** What repeats, as numbers within the same bounds and what may move a value, stands once, by `$ref`. */
export const jsonSchema = (): object => z.toJSONSchema(shotSchema(), { io: 'input', unrepresentable: 'any', reused: 'ref' })
