'use client'
import { Crosshair, X } from 'lucide-react'
import { useMemo } from 'react'
import { actOf } from '../../acts'
import type { Particle } from '../../protocol'
import { actsOf, grouped, type Shot, type Vec3 } from '../../shot'
import { Chart } from '../charts/Chart'
import { axis, INK, TINTS } from '../charts/ink'
import { pause } from '../playback'
import { setPlayhead, setStudio, useShot, useStudio } from '../store'
import { Button, cx, IconButton } from '../ui'
import { show } from '../units'
import { Children, Parent, PhaseBand } from './Descent'

const size = (v: Vec3) => Math.hypot(...v)
const vec = (v: Vec3) => v.map((x) => show(Number(x.toPrecision(4)))).join(', ')

const choose = (on: boolean) => setStudio({ choosing: on })

/** One particle: its values, what pushes it, what it touched, and its speed over its life. */
export function ParticleTab() {
  const particle = useStudio((s) => s.particle)
  const choosing = useStudio((s) => s.choosing)
  const known = useStudio((s) => s.known)
  // What is shown is of another frame until the run has been asked about this one.
  const late = useStudio((s) => s.known !== null && s.known.frame !== s.playhead)
  const shot = useShot((s) => s)
  const system = shot.systems.find((s) => s.id === particle?.system)
  const start = (
    <Button className="h-6! px-2!" onClick={() => choose(!choosing)} aria-pressed={choosing}>
      <Crosshair size={14} strokeWidth={1.5} /> {choosing ? 'Click one in the View …' : particle ? 'Pick another' : 'Pick a particle'}
    </Button>
  )
  if (!particle || !system)
    return <div className="flex items-center gap-3 p-3 text-moss">{start} Then this shows its values, its way, and what pushes it.</div>
  return (
    <div
      className={cx(
        'grid min-h-0 flex-1 grid-cols-[260px_minmax(0,1fr)_minmax(0,1fr)] gap-x-4 overflow-y-auto p-2 max-[900px]:grid-cols-1',
        'transition-opacity delay-150',
        late && 'opacity-60',
      )}
      aria-busy={late}
      data-testid="particle"
    >
      <section aria-label="Values" className="flex flex-col gap-1">
        <div className="flex items-center gap-2">
          <h3 className="min-w-0 flex-1 truncate font-semibold">
            {system.name}, number {grouped(particle.id)}
          </h3>
          <IconButton name="Look at no particle" onClick={() => setStudio({ particle: null, known: null, choosing: false })}>
            <X size={14} strokeWidth={1.5} />
          </IconButton>
        </div>
        {known && <Values known={known} shot={shot} endless={system.endless} />}
        <div className="pt-1">{start}</div>
      </section>
      <section aria-label="What pushes it">
        <h3 className="flex h-6 items-center font-semibold">What pushes it now</h3>
        {known && <Pushes known={known} shot={shot} />}
      </section>
      <section aria-label="Speed over its life" className="flex min-h-32 flex-col">
        {known && system.phases.length > 1 && <PhaseBand known={known} system={system} />}
        <h3 className="flex h-6 items-center justify-between font-semibold">
          Speed over its life <span className="font-normal text-moss">m/s; a click goes to its frame</span>
        </h3>
        {known && <Speeds known={known} />}
      </section>
    </div>
  )
}
const Row = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <div className="grid grid-cols-[72px_1fr] gap-2">
    <span className="text-moss">{name}</span> <span>{children}</span>
  </div>
)
function Values({ known: k, shot, endless }: { known: Particle; shot: Shot; endless: boolean }) {
  const first = k.path[0]
  // Contacts and descent are not in the frames of a bake.
  const baked = k.forces === null
  const touched = k.touched && shot.objects.find((o) => o.id === k.touched?.object)?.name
  const rate = shot.rate.num / shot.rate.den
  const until = k.now && !endless ? Math.ceil(k.frame + (k.now.life - k.now.age) * rate) : null
  return (
    <>
      {k.now ? (
        <>
          <Row name="Place">{vec(k.now.place)} m</Row>
          <Row name="Speed">
            {show(Number(size(k.now.velocity).toPrecision(4)))} m/s ({vec(k.now.velocity)})
          </Row>
          <Row name="Age">
            {show(Number(k.now.age.toFixed(3)))} s of {show(Number(k.now.life.toFixed(3)))} s
          </Row>
          <Row name="Size">
            {show(Number((k.now.size * 1000).toPrecision(3)))} mm, {show(k.now.mass)} kg
          </Row>
          {!baked && (
            <Row name="Touched">
              {touched && k.touched ? (
                <>
                  {touched}, {show(Number((k.now.age - k.touched.age).toFixed(2)))} s ago at {show(Number(k.touched.speed.toPrecision(3)))}{' '}
                  m/s; {k.now.hits} {k.now.hits === 1 ? 'contact' : 'contacts'} in all
                </>
              ) : (
                'nothing yet'
              )}
            </Row>
          )}
        </>
      ) : (
        <p className="text-moss">
          {first && k.frame < first.frame ? `Not born yet: it is at ${first.frame} f.` : 'It does not live in this frame any more.'}
        </p>
      )}
      {!baked && (
        <>
          <Row name="Parent">
            <Parent known={k} shot={shot} />
          </Row>
          <Row name="Children">
            <Children known={k} shot={shot} />
          </Row>
        </>
      )}
      <Row name="Ends">
        {k.ends
          ? `before ${k.ends.frame} f: ${k.ends.why}`
          : until !== null && until <= shot.range.last
            ? `about ${until} f, when its life is over`
            : 'not before the shot does'}
      </Row>
    </>
  )
}
function Pushes({ known, shot }: { known: Particle; shot: Shot }) {
  const name = (id: string): string => {
    const force = shot.forces.find((f) => f.act.id === id)
    const own = shot.systems.find((s) => s.id === known.system)
    const act = own && actsOf(own).find((a) => a.id === id)
    return force ? force.name : act ? actOf(act.kind).title : id
  }
  const { forces } = known
  if (!known.now) return <p className="text-moss">Nothing: it does not live in this frame.</p>
  if (!forces)
    return <p className="text-moss">It comes from a bake, which does not keep what moves it, what it touched and whom it comes from.</p>
  const sum = [0, 1, 2].map((a) => forces.reduce((s, f) => s + f.a[a], 0)) as Vec3
  const maximum = Math.max(1e-9, ...forces.map((f) => size(f.a)))
  if (!forces.length) return <p className="text-moss">No force reaches it.</p>
  return (
    <table className="w-full border-separate border-spacing-y-0.5">
      <tbody>
        {forces.map((f) => (
          <tr key={f.act}>
            <td className="w-28 max-w-28 truncate pr-2">{name(f.act)}</td>
            <td className="w-24 text-right">{show(Number(size(f.a).toPrecision(3)))} m/s²</td>
            <td className="pl-2">
              <span className="block h-1.5 bg-fern">
                <span className="block h-full bg-moss" style={{ width: `${(size(f.a) / maximum) * 100}%` }} />
              </span>
            </td>
            <td className="w-36 truncate pl-2 text-moss">{f.a.map((x) => show(Number(x.toPrecision(2)))).join(', ')}</td>
          </tr>
        ))}
        <tr>
          <td className="pr-2 text-moss">Together</td>
          <td className="text-right font-semibold">{show(Number(size(sum).toPrecision(3)))} m/s²</td>
          <td />
          <td className="truncate pl-2 text-moss">{sum.map((x) => show(Number(x.toPrecision(2)))).join(', ')}</td>
        </tr>
      </tbody>
    </table>
  )
}
function Speeds({ known }: { known: Particle }) {
  const option = useMemo(() => {
    const p = known.path
    return {
      grid: { left: 40, right: 10, top: 6, bottom: 20 },
      xAxis: axis({
        type: 'value',
        min: p[0]?.frame ?? 0,
        max: p.at(-1)?.frame ?? 1,
        minInterval: 1,
        splitLine: { show: false },
        axisLabel: { color: INK.text, fontSize: 11, formatter: '{value} f' },
      }),
      yAxis: axis({ type: 'value', min: 0 }),
      series: [
        {
          type: 'line',
          name: 'speed',
          showSymbol: p.length < 3,
          data: p.map((x) => [x.frame, Number(x.speed.toPrecision(4))]),
          lineStyle: { width: 1.5, color: TINTS[0] },
          itemStyle: { color: TINTS[0] },
          markLine: {
            silent: true,
            symbol: 'none',
            label: { show: false },
            lineStyle: { color: INK.ember, type: 'solid', width: 1.5 },
            data: [{ xAxis: known.frame }],
          },
        },
      ],
    }
  }, [known])
  return (
    <Chart
      label="Speed over its life"
      option={option}
      className="min-h-28 flex-1"
      onPoint={(x) => {
        pause()
        setPlayhead(Math.round(x))
      }}
    />
  )
}
