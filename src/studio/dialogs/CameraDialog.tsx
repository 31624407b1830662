'use client'
import { useState } from 'react'
import { type CameraTaking, cameraPath, columnsProblem, guessColumns, type NumberTable, tablePoints } from '../../formats/table/camera'
import { framesPerSecond, grouped } from '../../shot'
import { add } from '../adding'
import { cameraOf, columnsOf, pathNotes, ROLES, type Role, recallTaking, rememberTaking, rolesOf } from '../cameraPath'
import { newCamera } from '../create'
import { NumberField } from '../fields/NumberField'
import { SwitchField } from '../fields/plainFields'
import { edit, select, setStudio, shotNow, useStudio } from '../store'
import { toast } from '../toast'
import { anchorsOf, MOST_TRACKED } from '../trackedPoints'
import { Button, Select } from '../ui'
import { Modal } from './Modal'

const UNITS = [
  ['1', 'metres'],
  ['0.01', 'centimetres'],
  ['0.001', 'millimetres'],
  ['0.3048', 'feet'],
  ['0.0254', 'inches'],
] as const
const ORDERS = ['xyz', 'xzy', 'yxz', 'yzx', 'zxy', 'zyx'] as const
const options = (list: readonly (readonly [string, string])[]) => list.map(([value, label]) => ({ value: value || 'none', label }))
const SHOWN_ROWS = 3

/**
 * A table of a camera that was tracked or animated elsewhere, or of the points that were tracked with it: what its columns are, as guessed, to be
 * put right, and a camera or anchors out of it.
 */
export function CameraDialog() {
  const table = useStudio((s) => s.cameraTable)
  const close = () => setStudio({ cameraTable: null })
  return (
    <Modal open={!!table} onClose={close} title={`From ${table?.name ?? ''}`} width="w-[920px]">
      {table && <Form key={table.name} name={table.name} table={table.table} close={close} />}
    </Modal>
  )
}
function Form({ name, table, close }: { name: string; table: NumberTable; close: () => void }) {
  const shot = shotNow()
  const known = recallTaking(table)
  const [roles, setRoles] = useState<Role[]>(known?.roles ?? rolesOf(guessColumns(table), table.rows[0].length))
  const [unit, setUnit] = useState(known?.unit ?? 1)
  const [up, setUp] = useState<CameraTaking['up']>(known?.up ?? 'y')
  const [order, setOrder] = useState<CameraTaking['order']>(known?.order ?? 'xyz')
  const [first, setFirst] = useState(shot.range.first)
  const [use, setUse] = useState(true)
  const columns = columnsOf(roles)
  const [holds, setHolds] = useState<'camera' | 'points'>(columns.place && !columns.rotation ? 'points' : 'camera')
  const problem =
    holds === 'camera'
      ? columnsProblem(columns)
      : !columns.place
        ? 'Say which columns hold the place: X, Y and Z.'
        : table.rows.length > MOST_TRACKED
          ? `${grouped(table.rows.length)} points; at most ${MOST_TRACKED} become anchors. Leave the others out of the file.`
          : null
  const path =
    problem || holds === 'points'
      ? null
      : cameraPath(table, { columns, unit, up, order }, { aspect: shot.size.width / shot.size.height, rate: framesPerSecond(shot) })
  const takePoints = () => {
    if (problem || !columns.place) return
    const made = anchorsOf(shot, name.replace(/\.[^.]+$/, '') || 'Points', tablePoints(table, columns.place, { unit, up }), table.names)
    rememberTaking(table, { roles, unit, up, order })
    edit(`${made.length - 1} tracked points`, (s) => void s.objects.push(...made))
    select(made[0].id)
    toast(
      `${made[0].name}: ${made.length - 1} ${made.length === 2 ? 'anchor' : 'anchors'}. A plane through three of them, and the scale by a known distance, are in the menu of each.`,
    )
    close()
  }
  const take = () => {
    if (holds === 'points') takePoints()
    if (!path) return
    rememberTaking(table, { roles, unit, up, order })
    const camera = { ...newCamera(shot), name: name.replace(/\.[^.]+$/, '') || 'Camera', ...cameraOf(path, shot, first) }
    add('cameras', camera, (s) => {
      if (use) s.camera = camera.id
    })
    setStudio({ pose: null })
    toast(
      `${camera.name}: ${grouped(path.length)} ${path.length === 1 ? 'place' : 'places'} of a camera${use ? ', and the shot is seen through it' : ''}`,
    )
    close()
  }
  const row = 'flex min-h-7 items-center gap-2'
  const word = 'w-24 shrink-0 text-moss'
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        take()
      }}
    >
      <div className="overflow-x-auto rounded-md border border-bark">
        <table className="w-full border-collapse">
          <thead>
            <tr>
              {table.names && <th className="border-bark border-b p-1 text-left align-top font-normal text-moss">name</th>}
              {roles.map((role, i) => (
                <th key={i} className="min-w-28 border-bark border-b p-1 text-left font-normal">
                  <span className="block truncate pb-1 text-moss">{table.header?.[i] || `column ${i + 1}`}</span>
                  <Select
                    label={`Column ${i + 1}`}
                    value={role || 'none'}
                    options={options(ROLES)}
                    onChange={(v) =>
                      setRoles(roles.map((r, k) => (k === i ? ((v === 'none' ? '' : v) as Role) : v !== 'none' && r === v ? '' : r)))
                    }
                  />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.slice(0, SHOWN_ROWS).map((r, n) => (
              <tr key={n}>
                {table.names && <td className="max-w-40 truncate px-2 py-0.5">{table.names[n]}</td>}
                {r.map((v, i) => (
                  <td key={i} className="live px-2 py-0.5 text-right text-moss">
                    {v}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="text-moss">{grouped(table.rows.length)} rows.</p>
      <div className={row}>
        <span className={word}>It holds</span>
        <span className="w-40">
          <Select
            label="It holds"
            value={holds}
            options={[
              { value: 'camera', label: 'a camera' },
              { value: 'points', label: 'tracked points' },
            ]}
            onChange={(v) => setHolds(v as typeof holds)}
          />
        </span>
      </div>
      <div className={row}>
        <span className={word}>Unit</span>
        <span className="w-40">
          <Select label="Unit" value={String(unit)} options={options(UNITS)} onChange={(v) => setUnit(Number(v))} />
        </span>
        <span className={`${word} pl-4`}>Upwards</span>
        <span className="w-40">
          <Select
            label="Upwards"
            value={up}
            options={[
              { value: 'y', label: 'Y' },
              { value: 'z', label: 'Z' },
            ]}
            onChange={(v) => setUp(v as CameraTaking['up'])}
          />
        </span>
      </div>
      {holds === 'camera' && (
        <>
          <div className={row}>
            <span className={word}>First frame</span>
            <NumberField
              className="w-40"
              label="First frame"
              value={first}
              fps={1}
              spec={{ unit: '', min: 0, max: 1000000, integer: true, soft: [0, 1000] }}
              onChange={setFirst}
            />
            {columns.rotation?.kind === 'angles' && (
              <>
                <span className={`${word} pl-4`}>Rotation</span>
                <span className="w-40">
                  <Select
                    label="Rotated about"
                    value={order}
                    options={ORDERS.map((o) => ({ value: o, label: [...o.toUpperCase()].join(', then ') }))}
                    onChange={(v) => setOrder(v as CameraTaking['order'])}
                  />
                </span>
              </>
            )}
          </div>
          <div className={row}>
            <span className={word}>For the shot</span>
            <SwitchField label="See the shot through it" on={use} onChange={setUse} />
          </div>
        </>
      )}
      {problem && <p className="text-amber">{problem}</p>}
      {path &&
        pathNotes(path, shot, first).map((n) => (
          <p key={n} className="text-moss">
            {n}
          </p>
        ))}
      <div className="flex justify-end gap-2">
        <Button onClick={close}>Cancel</Button>
        <Button main type="submit" disabled={!!problem}>
          {holds === 'camera' ? 'Make the camera' : 'Make the anchors'}
        </Button>
      </div>
    </form>
  )
}
