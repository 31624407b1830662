import { type ChildProcess, spawn } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Document, WebIO } from '@gltf-transform/core'
import { inspectAsset } from '../../formats'
import { plainFont } from '../../formats/font/sfnt'
import { writePng } from '../../formats/image/png'
import { bareEnv, READER_LIMITS } from '../reader'

// Mutated files, each read as an upload is: in a process with the reader's limits, here one for many files so that twenty
// thousand take minutes. A reader that dies or is late is replaced, and counted.

/** xorshift32: the same files for the same seed. */
function random(seed: number): (n: number) => number {
  let x = seed || 1
  return (n) => {
    x ^= x << 13
    x ^= x >>> 17
    x ^= x << 5
    return (x >>> 0) % n
  }
}
const NUMBERS = ['0', '-1', '1e999', '4294967295', '1000000000000000', 'NaN', '', '99999999', '1e-320']
const INTS = [0, 1, 0x7f, 0x80, 0xff, 0x7fffffff, 0x80000000, 0xffffffff, 0x10000]
/** One to eight changes: bits, bytes, whole numbers of four bytes, digits of text, pieces cut, doubled and swapped. */
export function mutate(bytes: Uint8Array, seed: number): Uint8Array {
  const pick = random(seed * 2654435761)
  let b = Buffer.from(bytes)
  for (let n = 1 + pick(1 + pick(8)); n > 0 && b.length > 8; n--) {
    const at = pick(b.length)
    switch (pick(8)) {
      case 0:
        b[at] ^= 1 << pick(8)
        break
      case 1:
        b[at] = pick(256)
        break
      case 2:
      case 3:
        // Heads hold counts and offsets.
        if (b.length > 4)
          b[pick(2) ? 'writeUInt32LE' : 'writeUInt32BE'](
            INTS[pick(INTS.length)],
            Math.min(b.length - 4, pick(2) ? at : pick(Math.min(400, b.length))),
          )
        break
      case 4:
        b = b.subarray(0, Math.max(1, at))
        break
      case 5: {
        const length = pick(Math.min(4096, b.length - at)) + 1
        b = Buffer.concat([b.subarray(0, at), ...Array(1 + pick(20)).fill(b.subarray(at, at + length)), b.subarray(at)])
        break
      }
      case 6:
        b = Buffer.concat([b.subarray(0, at), b.subarray(at + 1 + pick(64))])
        break
      default: {
        // A number of a text, or of a GLB's JSON, becomes another one.
        const from = at
        const text = b.toString('latin1', from, Math.min(b.length, from + 400))
        const m = /\d+(\.\d+)?/.exec(text)
        if (m)
          b = Buffer.concat([
            b.subarray(0, from + m.index),
            Buffer.from(NUMBERS[pick(NUMBERS.length)]),
            b.subarray(from + m.index + m[0].length),
          ])
      }
    }
  }
  return b
}
/** Files of every kind that can be brought in. */
export async function seedFiles(root: string): Promise<{ name: string; bytes: Uint8Array }[]> {
  const out: { name: string; bytes: Uint8Array }[] = []
  const take = (folder: string) => {
    for (const e of readdirSync(folder, { withFileTypes: true })) {
      const path = join(folder, e.name)
      if (e.isDirectory()) take(path)
      else if (/\.(glb|obj|ply|stl|svg|ttf|otf|woff)$/i.test(e.name)) out.push({ name: e.name, bytes: readFileSync(path) })
    }
  }
  take(join(root, 'demo'))
  take(join(root, 'public/fonts'))
  const text = (name: string, s: string) => out.push({ name, bytes: Buffer.from(s) })
  text('roof.obj', 'o roof\nv 0 0 0\nv 2 0 0\nv 2 0 2\nv 0 0 2\nv 1 1 1\nvn 0 1 0\ng a\nf 1//1 2//1 5//1\nf 2 3 5\ng b\nf 3 4 5\nf 4 1 5\n')
  text(
    'lid.ply',
    'ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 2\nproperty list uchar int vertex_indices\nend_header\n0 0 0 9 9 9\n2 0 0 9 9 9\n2 2 0 9 9 9\n0 2 0 9 9 9\n3 0 1 2\n3 0 2 3\n',
  )
  text(
    'wedge.stl',
    'solid wedge\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid wedge\n',
  )
  text(
    'sign.svg',
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><g transform="translate(2 3) rotate(10 5 5)"><path d="M0 0h10v10h-10zM2 2h4v4h-4z" fill-rule="evenodd"/><circle cx="20" cy="20" r="8"/><rect x="1" y="30" width="9" height="5" rx="2"/><polygon points="30,0 39,9 30,18"/></g></svg>',
  )
  for (let i = 0; i < 3; i++) out.push({ name: `buoy ${i}.glb`, bytes: await buoy() })
  // The shipped fonts are packed; damage inside of their tables is not seen by what unpacks them.
  for (const f of out.filter((x) => /\.woff$/.test(x.name))) out.push({ name: f.name.replace('.woff', '.ttf'), bytes: plainFont(f.bytes) })
  return out
}

/** A GLB with all that is read of one: two nodes, a part that moves, colours, a picture, a skin's worth of numbers. */
async function buoy(): Promise<Uint8Array> {
  const doc = new Document()
  const buffer = doc.createBuffer()
  const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array | Uint16Array) =>
    doc.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const rgba = new Uint8Array(16 * 16 * 4).map((_, i) => (i * 37) & 255)
  const picture = doc
    .createTexture('paint')
    .setImage(writePng(16, 16, rgba, true) as Uint8Array<ArrayBuffer>)
    .setMimeType('image/png')
  const primitive = doc
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1])))
    .setAttribute('NORMAL', accessor('VEC3', new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 1, 0, 0])))
    .setAttribute('TEXCOORD_0', accessor('VEC2', new Float32Array([0, 0, 1, 0, 0, 1, 1, 1])))
    .setAttribute('COLOR_0', accessor('VEC3', new Float32Array(12).fill(0.5)))
    .setIndices(accessor('SCALAR', new Uint16Array([0, 1, 2, 0, 2, 3])))
    .setMaterial(doc.createMaterial('skin').setBaseColorTexture(picture))
  const mesh = doc.createMesh('Hull').addPrimitive(primitive)
  const node = doc.createNode('Float').setMesh(mesh)
  doc.createScene().addChild(doc.createNode('Root').addChild(node).addChild(doc.createNode('Twin').setMesh(mesh)))
  const sampler = doc
    .createAnimationSampler()
    .setInput(accessor('SCALAR', new Float32Array([0, 1])))
    .setOutput(accessor('VEC3', new Float32Array([0, 0, 0, 0, 1, 0])))
  const channel = doc.createAnimationChannel().setTargetNode(node).setTargetPath('translation').setSampler(sampler)
  doc.createAnimation('Bob').addSampler(sampler).addChannel(channel)
  return new WebIO().writeBinary(doc)
}
/** The process that reads: answers each file with what became of it. */
export function readForCampaign(): void {
  process.on('message', (bytes: Uint8Array) => {
    const began = performance.now()
    inspectAsset(new Uint8Array(bytes)).then(
      (r) =>
        process.send?.({
          ok: r.ok,
          letters: r.ok ? 0 : r.problem.message.length,
          ms: performance.now() - began,
          mb: process.resourceUsage().maxRSS / 1024,
        }),
      (error) => process.send?.({ threw: String(error), ms: performance.now() - began }),
    )
  })
  process.once('disconnect', () => process.exit(0))
}
interface Answer {
  ok?: boolean
  threw?: string
  letters?: number
  ms: number
  mb?: number
}
export async function fileCampaign(
  script: string,
  root: string,
  count: number,
  seed: number,
  readers = 2,
): Promise<Record<string, unknown>> {
  const files = await seedFiles(root)
  const total = { files: 0, read: 0, refused: 0, threw: 0, late: 0, died: 0, over2s: 0, longestMs: 0, mostMb: 0, longRefusals: 0 }
  const worst: string[] = []
  let next = 0
  const start = (): ChildProcess =>
    spawn(
      '/bin/sh',
      [
        '-c',
        `ulimit -d ${READER_LIMITS.memoryMb * 1024}; ulimit -c 0; exec "$@"`,
        'sh',
        process.execPath,
        `--max-old-space-size=${READER_LIMITS.heapMb}`,
        script,
        'reader',
      ],
      {
        env: bareEnv(),
        stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
        serialization: 'advanced',
      },
    )
  await Promise.all(
    Array.from({ length: readers }, async () => {
      let child = start()
      while (next < count) {
        const n = next++
        const file = files[n % files.length]
        const bytes = mutate(file.bytes, seed + n)
        const answer = await new Promise<Answer | 'late' | 'died'>((done) => {
          const timer = setTimeout(() => done('late'), READER_LIMITS.cpuS * 1000)
          const over = (a: Answer | 'late' | 'died') => {
            clearTimeout(timer)
            child.removeAllListeners()
            done(a)
          }
          child.once('message', (a: Answer) => over(a))
          child.once('exit', () => over('died'))
          child.send(bytes)
        })
        total.files++
        if (answer === 'late' || answer === 'died') {
          total[answer]++
          worst.push(`${answer}: ${file.name} ${seed + n}`)
          child.removeAllListeners()
          child.kill('SIGKILL')
          child = start()
          continue
        }
        if (answer.threw) {
          total.threw++
          worst.push(`threw: ${file.name} ${seed + n}: ${answer.threw}`)
        } else if (answer.ok) total.read++
        else total.refused++
        if ((answer.letters ?? 0) > 300) total.longRefusals++
        if (answer.ms > 2000) {
          total.over2s++
          worst.push(`${(answer.ms / 1000).toFixed(1)} s: ${file.name} ${seed + n}`)
        }
        total.longestMs = Math.max(total.longestMs, Math.round(answer.ms))
        total.mostMb = Math.max(total.mostMb, Math.round(answer.mb ?? 0))
      }
      child.kill('SIGKILL')
    }),
  )
  return { ...total, seeds: files.length, worst: worst.slice(0, 40) }
}
