import { OUTLINE_PARAMS } from '../acts'
import { bad, formatProblemText } from '../formats/result'
import { readNumbers } from '../formats/table/camera'
import { type CameraDoc, defaultsOf, framesPerSecond, grouped, type ObjectDoc, type Shape, type Shot, type TextShapeDoc } from '../shot'
import { add } from './adding'
import { api, messageOf } from './api'
import { cameraOf } from './cameraPath'
import { freeName, newCamera, newLight, newObject } from './create'
import { edit, select, setStudio, shotNow, studio } from './store'
import { toast } from './toast'
import { show } from './units'
import { takeVolume } from './volumes'

type Stored = Awaited<ReturnType<typeof api.upload>>
/** A font of one's own: into the shot's files, and onto the text that is selected. */
function takeFont(a: Stored): void {
  const chosen = shotNow().objects.find((o) => o.id === studio().selected && o.shape.kind === 'text')
  edit(`the font ${a.name}`, (s) => {
    if (!s.assets.some((x) => x.hash === a.hash)) s.assets.push({ hash: a.hash, name: a.name })
    const o = s.objects.find((x) => x.id === chosen?.id)
    if (o) (o.shape as TextShapeDoc).font = a.hash
  })
  toast(chosen ? `${chosen.name} is set in ${a.name}` : `${a.name} can be chosen as the font of any text of this shot`)
}
/**
 * A picture of light: all around the shot, as the light that is selected or already there, else as one of its own. Two would be one too many:
 * only one counts.
 */
function takeLight(a: Stored, name: string, { size, above, below }: NonNullable<Stored['info']['light']>): void {
  const around = shotNow().lights.filter((l) => l.kind === 'around')
  const there = around.find((l) => l.id === studio().selected) ?? around[0]
  const into = (s: Shot) => {
    if (!s.assets.some((x) => x.hash === a.hash)) s.assets.push({ hash: a.hash, name: a.name })
  }
  const odd = Math.abs(size[0] / size[1] - 2) > 0.02 ? ' It is not twice as wide as high: it will look drawn out.' : ''
  const note = `${a.info.notes.length ? ` ${a.info.notes.join('; ')}.` : ''}${odd}`
  const facts = { asset: a.hash, above, below }
  if (there) {
    edit(`${a.name} all around`, (s) => {
      into(s)
      // One that was another kind of light before would be as many times too bright.
      Object.assign(s.lights.find((l) => l.id === there.id) ?? {}, facts, there.asset ? {} : { strength: 1 })
    })
    select(there.id)
  } else add('lights', { ...newLight(shotNow()), name, kind: 'around', strength: 1, ...facts }, into)
  toast(`${there?.name ?? name}: ${size.join(' × ')} pixels of light, all around; it stands for the sky and the even light.${note}`)
}
/** Three files or more whose names differ by their last number alone are the poses of one mesh, in the order of the numbers. */
export function byNumber(files: readonly File[]): { single: File[]; sequences: { name: string; files: File[] }[] } {
  const groups = new Map<string, { n: number; file: File }[]>()
  for (const file of files) {
    const m = /^(.*?)(\d+)(\.[^.]+)$/.exec(file.name)
    const key = m ? `${m[1]}|${m[3].toLowerCase()}` : file.name
    groups.set(key, [...(groups.get(key) ?? []), { n: m ? Number(m[2]) : 0, file }])
  }
  const single: File[] = []
  const sequences: { name: string; files: File[] }[] = []
  for (const [key, list] of groups) {
    if (list.length < 3) single.push(...list.map((x) => x.file))
    else
      sequences.push({
        name: key.split('|')[0].replace(/[-_. ]+$/, '') || 'Mesh',
        files: list.sort((a, b) => a.n - b.n).map((x) => x.file),
      })
  }
  return { single, sequences }
}
/** Files of a sequence that are on their way at the same time. */
const AT_ONCE = 3
/** Does something for each of a list, so many at a time; the first that fails ends it. */
async function inTurn<T>(list: readonly T[], atOnce: number, of: (x: T, i: number) => Promise<void>): Promise<void> {
  let next = 0
  const work = async () => {
    for (let i = next++; i < list.length; i = next++) await of(list[i], i)
  }
  await Promise.all(Array.from({ length: Math.min(atOnce, list.length) }, work))
}
/** An object that is one file after another, so many a second. */
function numbered(name: string, assets: readonly Stored[], rate: number): ObjectDoc {
  const [first, ...poses] = assets
  const object = newObject(shotNow(), name, {
    ...{ kind: 'mesh', asset: first.hash, unit: 1, up: 'y', poses: poses.map((a) => a.hash) },
    ...{ rate, start: 0, speed: 1, after: 'hold' },
  })
  // Pictures are there to be seen, or shown by particles.
  object.roles.collider = !first.info.plate
  asMade(object, first.info)
  return object
}
function keepFiles(s: Shot, assets: readonly Stored[]): void {
  for (const a of assets) if (!s.assets.some((x) => x.hash === a.hash)) s.assets.push({ hash: a.hash, name: a.name })
}
async function importSequence(name: string, files: File[]): Promise<void> {
  try {
    const assets: Awaited<ReturnType<typeof api.upload>>[] = []
    let done = 0
    // A few at once: the server reads each in a process of its own.
    await inTurn(files, AT_ONCE, async (file, i) => {
      assets[i] = await api.upload(file)
      toast(`Reading ${name}: file ${++done} of ${files.length} …`)
    })
    if (assets[0].info.volume) {
      const other = assets.find((a) => !a.info.volume)
      if (other) throw new Error(`${other.name} holds no volume as ${assets[0].name} does. Nothing was brought in.`)
      toast(takeVolume(name, assets))
      return
    }
    const odd = assets.find((a) => a.info.vertices !== assets[0].info.vertices)
    if (odd)
      throw new Error(
        `${odd.name} has ${grouped(odd.info.vertices)} points and ${assets[0].name} ${grouped(assets[0].info.vertices)}; as one moving mesh all files need the same points. Nothing was brought in.`,
      )
    const { rate } = shotNow()
    const object = numbered(name, assets, rate.num / rate.den)
    const { plate } = assets[0].info
    add('objects', object, (s) => keepFiles(s, assets))
    toast(
      plate
        ? `${object.name}: ${files.length} numbered pictures, one a frame. They can be what particles look like, by a Sprite, or lie behind everything, as the Plate of the camera.`
        : `${object.name}: ${files.length} files as one moving mesh, one a frame`,
    )
  } catch (error) {
    toast(messageOf(error), true)
  }
}
/** A video, as the numbered pictures that the server makes of it. */
async function takeVideo(file: File): Promise<void> {
  toast(`Reading ${file.name}: every frame of it becomes a picture …`)
  try {
    const v = await api.uploadVideo(file)
    const object = numbered(v.name, v.frames, v.rate.num / v.rate.den)
    add('objects', object, (s) => keepFiles(s, v.frames))
    const { rate } = shotNow()
    const odd =
      rate.num * v.rate.den === v.rate.num * rate.den
        ? ''
        : ` The shot has ${show(rate.num / rate.den)} frames a second: set it to that of the video, or its pictures come unevenly.`
    toast(
      `${object.name}: ${grouped(v.frames.length)} pictures, ${show(v.rate.num / v.rate.den)} a second. They can lie behind everything, as the Plate of the camera.${odd}${v.notes.map((n) => ` ${n}.`).join('')}`,
    )
  } catch (error) {
    toast(messageOf(error), true)
  }
}
/** Tables of numbers that are larger than this are no camera's. */
const MOST_TABLE_BYTES = 32 * 1024 * 1024
/** A table of a camera: what its columns are is asked, with a guess. */
async function takeTable(file: File): Promise<void> {
  const r =
    file.size > MOST_TABLE_BYTES
      ? bad(`larger than ${MOST_TABLE_BYTES / 1048576} MB; a camera's table is smaller`)
      : readNumbers(await file.text())
  if (r.ok) setStudio({ cameraTable: { name: file.name, table: r.value } })
  else toast(`${file.name}: ${formatProblemText(r.problem)}`, true)
}
/** The cameras of a file beside its meshes, each on every frame of the shot as it is in the file. Null: it has none, or cannot be read. */
async function takeCameras(file: File): Promise<string | null> {
  const { readGlbCameras } = await import('../formats/mesh/glbCameras')
  const r = await readGlbCameras(new Uint8Array(await file.arrayBuffer()))
  if (!r.ok || !r.value.length) return null
  const shot = shotNow()
  const aspect = shot.size.width / shot.size.height
  const made = r.value.map((c): CameraDoc => {
    const frames = c.moves ? Math.ceil(c.lengthS * framesPerSecond(shot) - 1e-6) : 0
    const path = Array.from({ length: frames + 1 }, (_, frame) => ({ frame, ...c.at(frame / framesPerSecond(shot), aspect) }))
    return { ...newCamera(shot), name: freeName(shot, c.name), ...cameraOf(path, shot, shot.range.first) }
  })
  edit(made.length === 1 ? `the camera ${made[0].name}` : `${made.length} cameras`, (s) => void s.cameras.push(...made))
  const moves = r.value.filter((c) => c.moves).length
  return `${made.length === 1 ? `the camera ${made[0].name}` : `${made.length} cameras`}${moves ? `, ${made.length === 1 ? '' : `${moves} of them `}moving from the first frame on` : ''}`
}
/** Brings mesh files in: stored on the server, then an object each. */
export async function importFiles(files: Iterable<File>): Promise<void> {
  const { single, sequences } = byNumber([...files])
  for (const s of sequences) await importSequence(s.name, s.files)
  for (const file of single) {
    if (/\.(mov|mp4|m4v|webm|mkv|avi)$/i.test(file.name)) {
      await takeVideo(file)
      continue
    }
    if (/\.(csv|tsv|txt)$/i.test(file.name)) {
      await takeTable(file)
      continue
    }
    toast(`Reading ${file.name} …`)
    const cameras = /\.glb$/i.test(file.name) ? await takeCameras(file) : null
    try {
      const a = await api.upload(file)
      const name = a.name.replace(/\.[^.]+$/, '') || 'Mesh'
      if (a.info.kind === 'font') {
        takeFont(a)
        continue
      }
      if (a.info.light) {
        takeLight(a, name, a.info.light)
        continue
      }
      if (a.info.volume) {
        toast(takeVolume(name, [a]))
        continue
      }
      const drawing = a.info.kind === 'outline'
      const object = newObject(
        shotNow(),
        name,
        drawing
          ? ({ kind: 'outline', asset: a.hash, ...defaultsOf(OUTLINE_PARAMS) } satisfies Shape)
          : { kind: 'mesh', asset: a.hash, unit: 1, up: 'y', poses: [], rate: 24, start: 0, speed: 1, after: 'hold' },
      )
      // A picture is there to be seen, or shown by particles.
      const { plate } = a.info
      object.roles.collider = !plate
      asMade(object, a.info)
      add('objects', object, (s) => {
        if (!s.assets.some((x) => x.hash === a.hash)) s.assets.push({ hash: a.hash, name: a.name })
      })
      const note = a.info.notes.length ? ` ${a.info.notes.join('; ')}.` : ''
      if (drawing) {
        toast(
          `${object.name}: ${a.info.parts.length} ${a.info.parts.length === 1 ? 'shape' : 'shapes'} with depth; height and rim are under Shape.${note}`,
        )
        continue
      }
      if (plate) {
        toast(
          `${object.name}: a picture, 1 m long. It can be what particles look like, by a Sprite in the look of a system, or lie behind everything, as the Plate of the camera.`,
        )
        continue
      }
      const size = a.info.bounds.max.map((v, i) => v - a.info.bounds.min[i])
      const odd =
        Math.max(...size) > 100
          ? ' That is large: is its unit the centimetre or the millimetre? Choose it under Shape.'
          : Math.max(...size) < 0.01
            ? ' That is tiny: choose its unit under Shape.'
            : ''
      toast(
        `${object.name}: ${grouped(a.info.triangles)} triangles, ${size.map((v) => v.toPrecision(3)).join(' × ')} m.${odd}${note}${cameras ? ` With ${cameras}.` : ''}`,
      )
    } catch (error) {
      // A file may hold nothing but cameras.
      if (cameras) toast(`${file.name}: ${cameras}, and nothing else. ${messageOf(error)}`)
      else toast(messageOf(error), true)
    }
  }
}
/** What a file says of colours and materials is seen as it is. */
function asMade({ material }: ObjectDoc, { tinted, made }: { tinted: boolean; made?: boolean }): void {
  if (tinted || made) material.colour = [1, 1, 1]
  if (made) material.values = 'file'
}
