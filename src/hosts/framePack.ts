import type { Frame, Part } from '../engine'

/** Raised when the form of the files changes. */
export const FORM = 1
export const HEAD_BYTES = 8
/** A part without its data, and where that lies behind the head. */
export type PartHead = { part: Omit<Part, 'data'>; at: number; bytes: number }
export interface FrameHead extends Omit<Frame, 'parts'> {
  parts: PartHead[]
}

/** Frames in one file: the length of a head and the head, as JSON, then the data of all parts. */
export function packFrames(frames: readonly Frame[]): (ArrayBuffer | Uint8Array)[] {
  const data: ArrayBuffer[] = []
  let at = 0
  const heads = frames.map(
    ({ parts, ...rest }): FrameHead => ({
      ...rest,
      parts: parts.map((p): PartHead => {
        if (!('data' in p)) return { part: p, at: 0, bytes: 0 }
        const { data: own, ...part } = p
        const head = { part, at, bytes: own.byteLength }
        data.push(own)
        at += own.byteLength
        return head
      }),
    }),
  )
  const head = new TextEncoder().encode(JSON.stringify(heads))
  const length = new Uint8Array(HEAD_BYTES)
  new DataView(length.buffer).setUint32(0, head.length, true)
  new DataView(length.buffer).setUint32(4, FORM, true)
  return [length, head, ...data]
}
/** The length of the head of a file of frames, from its first bytes; null: it is of another form. */
export function headOf(first: ArrayBuffer | null): number | null {
  if (!first || first.byteLength < HEAD_BYTES) return null
  const view = new DataView(first)
  return view.getUint32(4, true) === FORM ? view.getUint32(0, true) : null
}
/** A frame from its head, and from bytes behind the heads that `read` gives; null where they are not all there. */
export async function frameOf(
  { parts, ...rest }: FrameHead,
  read: (from: number, bytes: number) => Promise<ArrayBuffer | null>,
): Promise<Frame | null> {
  const whole: Part[] = []
  for (const { part, at, bytes } of parts) {
    if (part.kind === 'place') {
      whole.push(part as Part)
      continue
    }
    const data = await read(at, bytes)
    if (data?.byteLength !== bytes) return null
    whole.push({ ...part, data } as Part)
  }
  return { ...rest, parts: whole }
}
/** One frame out of packed ones; null where it is not, or not whole. */
export async function unpackFrame(bytes: ArrayBuffer, number: number): Promise<Frame | null> {
  const length = headOf(bytes)
  if (length === null || HEAD_BYTES + length > bytes.byteLength) return null
  const heads = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, HEAD_BYTES, length))) as FrameHead[]
  const head = heads.find((h) => h.frame === number)
  const begin = HEAD_BYTES + length
  return head ? frameOf(head, async (from, n) => bytes.slice(begin + from, begin + from + n)) : null
}
