import type { ActDoc } from '../shot'
import { whenChance } from './conditions/chance'
import { whenContacts } from './conditions/contacts'
import { whenFew } from './conditions/few'
import { whenFromMoment } from './conditions/fromMoment'
import { whenGroup } from './conditions/group'
import { whenInPhase } from './conditions/inPhase'
import { whenOfAge } from './conditions/ofAge'
import { whenReached } from './conditions/reached'
import { whenSwitched } from './conditions/switched'
import { whenTouched } from './conditions/touched'
import { bounce } from './contacts/bounce'
import { die } from './contacts/die'
import { ignore } from './contacts/ignore'
import { meet } from './contacts/meet'
import { notice } from './contacts/notice'
import { slide } from './contacts/slide'
import { stick } from './contacts/stick'
import { grid } from './copies/grid'
import { ring } from './copies/ring'
import { row } from './copies/row'
import type { Act, Sort } from './define'
import { outsideBox } from './endings/outsideBox'
import { small } from './endings/small'
import { unseen } from './endings/unseen'
import { drain } from './feeds/drain'
import { fog } from './feeds/fog'
import { fromFile } from './feeds/fromFile'
import { fromObject } from './feeds/fromObject'
import { fromParticles } from './feeds/fromParticles'
import { bloom } from './finish/bloom'
import { detail } from './finish/detail'
import { flare } from './finish/flare'
import { fringes } from './finish/fringes'
import { grade } from './finish/grade'
import { grain } from './finish/grain'
import { lensBend } from './finish/lensBend'
import { linger } from './finish/linger'
import { rays } from './finish/rays'
import { sharpen } from './finish/sharpen'
import { smear } from './finish/smear'
import { soften } from './finish/soften'
import { spinBlur } from './finish/spinBlur'
import { tone } from './finish/tone'
import { vignette } from './finish/vignette'
import { zoomBlur } from './finish/zoomBlur'
import { burn } from './flows/burn'
import { curl } from './flows/curl'
import { fade } from './flows/fade'
import { rise } from './flows/rise'
import { ageing } from './forces/ageing'
import { attract } from './forces/attract'
import { attractLine } from './forces/attractLine'
import { attractSurface } from './forces/attractSurface'
import { carry } from './forces/carry'
import { chase } from './forces/chase'
import { crawl } from './forces/crawl'
import { drag } from './forces/drag'
import { flock } from './forces/flock'
import { gasCarry } from './forces/gasCarry'
import { gravity } from './forces/gravity'
import { mass } from './forces/mass'
import { orbit } from './forces/orbit'
import { followPath } from './forces/path'
import { radius } from './forces/radius'
import { shock } from './forces/shock'
import { speedLimit } from './forces/speedLimit'
import { spin } from './forces/spin'
import { stay } from './forces/stay'
import { swarm } from './forces/swarm'
import { turbulence } from './forces/turbulence'
import { vortex } from './forces/vortex'
import { wake } from './forces/wake'
import { wind } from './forces/wind'
import { glow } from './gasLooks/glow'
import { smoke } from './gasLooks/smoke'
import { limitAge } from './limits/age'
import { limitChance } from './limits/chance'
import { limitGas } from './limits/gas'
import { limitOthers } from './limits/others'
import { limitObject, limitPlace } from './limits/place'
import { limitRegion } from './limits/region'
import { limitSeen } from './limits/seen'
import { limitSpeed } from './limits/speed'
import { blend } from './looks/blend'
import { dash } from './looks/dash'
import { dot } from './looks/dot'
import { flake } from './looks/flake'
import { mapColour } from './looks/mapColour'
import { mapShape } from './looks/mapShape'
import { mapValue } from './looks/mapValue'
import { overLife } from './looks/overLife'
import { relief } from './looks/relief'
import { solid } from './looks/solid'
import { sprite } from './looks/sprite'
import { tuft } from './looks/tuft'
import { varyColour } from './looks/varyColour'
import { expression } from './modulators/expression'
import { follow } from './modulators/follow'
import { wander } from './modulators/wander'
import { wave } from './modulators/wave'
import { growth } from './offspring/growth'
import { links } from './offspring/links'
import { shed } from './offspring/shed'
import { trail } from './offspring/trail'
import { inBall } from './regions/ball'
import { inBox } from './regions/box'
import { height } from './regions/height'
import { near } from './regions/near'
import { painted } from './regions/painted'
import { patches } from './regions/patches'
import { picture } from './regions/picture'
import { side } from './regions/side'
import { slope } from './regions/slope'
import { tint } from './regions/tint'
import { bend } from './reshapes/bend'
import { ridges } from './reshapes/ridges'
import { ripple } from './reshapes/ripple'
import { subdivide } from './reshapes/subdivide'
import { taper } from './reshapes/taper'
import { twist } from './reshapes/twist'
import { weld } from './reshapes/weld'
import { burst } from './sources/burst'
import { steady } from './sources/steady'
import { total } from './sources/total'
import { travel } from './sources/travel'
import { turnCopy } from './turns/turnCopy'
import { turnEnd } from './turns/turnEnd'
import { turnInto } from './turns/turnInto'
import { turnTo } from './turns/turnTo'

/** Every act there is. */
const ALL: readonly Act[] = [
  steady,
  burst,
  total,
  travel,
  gravity,
  drag,
  wind,
  wake,
  carry,
  gasCarry,
  turbulence,
  vortex,
  orbit,
  attract,
  attractLine,
  attractSurface,
  swarm,
  chase,
  stay,
  crawl,
  flock,
  shock,
  followPath,
  speedLimit,
  mass,
  radius,
  ageing,
  spin,
  limitAge,
  limitPlace,
  limitObject,
  limitSpeed,
  limitRegion,
  limitGas,
  limitOthers,
  limitSeen,
  limitChance,
  bounce,
  slide,
  stick,
  die,
  ignore,
  notice,
  meet,
  outsideBox,
  unseen,
  small,
  overLife,
  dot,
  dash,
  flake,
  tuft,
  solid,
  sprite,
  mapShape,
  mapValue,
  mapColour,
  varyColour,
  relief,
  blend,
  trail,
  shed,
  links,
  growth,
  bloom,
  lensBend,
  rays,
  flare,
  soften,
  smear,
  spinBlur,
  zoomBlur,
  sharpen,
  fringes,
  detail,
  linger,
  grade,
  vignette,
  grain,
  tone,
  wave,
  wander,
  follow,
  expression,
  taper,
  twist,
  bend,
  ripple,
  ridges,
  subdivide,
  weld,
  ring,
  row,
  grid,
  side,
  inBall,
  inBox,
  near,
  slope,
  height,
  patches,
  tint,
  picture,
  painted,
  turnTo,
  turnCopy,
  turnInto,
  turnEnd,
  whenInPhase,
  whenOfAge,
  whenFromMoment,
  whenTouched,
  whenContacts,
  whenReached,
  whenFew,
  whenSwitched,
  whenChance,
  whenGroup,
  fog,
  fromFile,
  fromObject,
  fromParticles,
  drain,
  rise,
  curl,
  fade,
  burn,
  smoke,
  glow,
]

/** The act among `docs` that decides: the last one of a definition that is not muted. */
export const lastOf = (docs: readonly ActDoc[], act: Act): ActDoc | undefined => docs.findLast((d) => d.kind === act.kind && !d.muted)

/** A list of acts by their kinds. Throws when two share one: the program must not start with one of them silently gone. */
export function registryOf(acts: readonly Act[]) {
  const kinds = new Map<string, Act>()
  for (const act of acts) {
    if (kinds.has(act.kind)) throw new Error(`two acts are called ${act.kind}`)
    kinds.set(act.kind, act)
  }
  const actOf = (kind: string): Act => {
    const act = kinds.get(kind)
    if (!act) throw new Error(`no act ${kind}`)
    return act
  }
  return {
    ACTS: acts,
    actOf,
    actOfSort<S extends Sort>(kind: string, sort: S): Extract<Act, { sort: S }> {
      const act = actOf(kind)
      if (act.sort !== sort) throw new Error(`${kind} is not a ${sort}`)
      return act as Extract<Act, { sort: S }>
    },
    actsOfSort: <S extends Sort>(sort: S) => acts.filter((a): a is Extract<Act, { sort: S }> => a.sort === sort),
  }
}
export const { ACTS, actOf, actOfSort, actsOfSort } = registryOf(ALL)
