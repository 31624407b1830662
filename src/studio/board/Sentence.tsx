'use client'
import { actOf, readerOf, type SentencePart } from '../../acts'
import { type ActDoc, isVaried, moves, type Param, type ValueRef } from '../../shot'
import type { Bind } from '../fields/bind'
import { numberNow, stepNow, writeNow } from '../fields/bind'
import { useFps } from '../fields/fps'
import { NumberField } from '../fields/NumberField'
import { refStored, refValue, usePhaseOptions, useRefOptions } from '../fields/pickers'
import { refText } from '../fields/ValuePicker'
import { useShot, useStudio } from '../store'
import { Select } from '../ui'
import { showWithUnit } from '../units'

/** An act in words, its values underlined and changed in place. */
export function Sentence({ act, binds }: { act: ActDoc; binds: Record<string, Bind> }) {
  useStudio((s) => moves(act) && s.playhead)
  const parts = actOf(act.kind).sentence(readerOf(act))
  return (
    <span>
      {parts.map((part, i) => (
        <Part key={i} part={part} binds={binds} />
      ))}
    </span>
  )
}
function Part({ part, binds }: { part: SentencePart; binds: Record<string, Bind> }) {
  if (typeof part === 'string') {
    // The first word names the act.
    const m = /^([A-Z][\w-]*)(.*)$/s.exec(part)
    return m ? (
      <>
        <b className="font-semibold">{m[1]}</b>
        {m[2]}
      </>
    ) : (
      part
    )
  }
  const bind = binds[part.param]
  return <Value bind={bind} text={'text' in part ? part.text : undefined} />
}
/** What a reference to a value leads to. */
function ValueName({ value }: { value: ValueRef | null }) {
  const text = useShot((s) => refText(s, value))
  return <b className="font-semibold">{text}</b>
}
function Value({ bind: b, text }: { bind: Bind; text?: string }) {
  const fps = useFps()
  const refs = useRefOptions(b.param)
  const p: Param = b.param
  const phases = usePhaseOptions(b.owner.id, p.type === 'phase' ? String(b.value ?? '') : '')
  if (p.type === 'choice')
    return (
      <Select
        inline
        label={p.label}
        value={stepNow<string>(b)}
        options={p.options.map((o) => ({ ...o, label: text && o.value === stepNow(b) ? text : o.label }))}
        onChange={(v) => writeNow(b, v, null)}
      />
    )
  if (p.type === 'value') return <ValueName value={b.value as ValueRef | null} />
  if (p.type === 'phase')
    return (
      <Select
        inline
        label={p.label}
        value={refValue(b.value || null)}
        options={phases}
        onChange={(v) => b.write(p.label.toLowerCase(), refStored(v) ?? '', null)}
      />
    )
  if (p.type === 'ref')
    return (
      <Select
        inline
        label={p.label}
        value={refValue(b.value)}
        options={refs}
        onChange={(v) => b.write(p.label.toLowerCase(), refStored(v), null)}
      />
    )
  if (p.type === 'number' && text === undefined) {
    if (b.value === null) return <b className="font-semibold">{p.empty}</b>
    return (
      <>
        <NumberField inline label={p.label} value={numberNow(b)} spec={p} fps={fps} onChange={(v, g) => writeNow(b, v, g)} />
        {isVaried(b.value) && b.value.vary > 0 && (
          <span className="whitespace-nowrap text-moss"> ± {showWithUnit(b.value.vary, p, fps)}</span>
        )}
      </>
    )
  }
  return (
    <b className="font-semibold">
      {text ?? (p.type === 'vector' ? (b.value as unknown[]).map((_, i) => numberNow(b, i)).join(', ') : String(b.value))}
    </b>
  )
}
