import type { Document, Node, Primitive } from '@gltf-transform/core'
import type { MotionChannel, MotionNode, MotionPiece } from '../../engine'

const EASES: Record<string, MotionChannel['ease']> = { STEP: 'step', LINEAR: 'linear', CUBICSPLINE: 'cubic' }
const PATHS: readonly string[] = ['translation', 'rotation', 'scale', 'weights']

/** What moves in a glTF document: its nodes in an order in which parents come first, and the channels of its first animation. */
export function motionOf(document: Document): {
  order: Node[]
  nodes: MotionNode[]
  channels: MotionChannel[]
  lengthS: number
  moves: Set<Node>
} {
  const root = document.getRoot()
  const order: Node[] = []
  const index = new Map<Node, number>()
  const nodes: MotionNode[] = []
  const take = (n: Node, parent: number) => {
    if (index.has(n)) return
    const at = order.push(n) - 1
    index.set(n, at)
    const weights = n.getWeights().length ? n.getWeights() : (n.getMesh()?.getWeights() ?? [])
    const morphs = Math.max(
      0,
      ...(n
        .getMesh()
        ?.listPrimitives()
        .map((p) => p.listTargets().length) ?? []),
    )
    nodes.push({
      parent,
      translation: n.getTranslation() as MotionNode['translation'],
      rotation: n.getRotation() as MotionNode['rotation'],
      scale: n.getScale() as MotionNode['scale'],
      weights: Array.from({ length: morphs }, (_, i) => weights[i] ?? 0),
    })
    for (const c of n.listChildren()) take(c, at)
  }
  const scene = root.getDefaultScene() ?? root.listScenes()[0]
  for (const n of scene?.listChildren() ?? []) take(n, -1)
  // Bones may hang outside the scene.
  for (const n of root.listNodes()) if (!n.getParentNode()) take(n, -1)
  const channels: MotionChannel[] = []
  let lengthS = 0
  for (const c of root.listAnimations()[0]?.listChannels() ?? []) {
    const node = c.getTargetNode()
    const sampler = c.getSampler()
    const [input, output] = [sampler?.getInput()?.getArray(), sampler?.getOutput()]
    const path = c.getTargetPath() as MotionChannel['path']
    const at = node ? index.get(node) : undefined
    if (at === undefined || !sampler || !input?.length || !output || !PATHS.includes(path)) continue
    const ease = EASES[sampler.getInterpolation()] ?? 'linear'
    const size = path === 'rotation' ? 4 : path === 'weights' ? nodes[at].weights.length : 3
    // Elements one by one, so that packed numbers come out as they are meant.
    const values = new Float32Array(output.getCount() * output.getElementSize())
    const e: number[] = []
    for (let i = 0; i < output.getCount(); i++) {
      output.getElement(i, e)
      values.set(e.slice(0, output.getElementSize()), i * output.getElementSize())
    }
    if (!size || values.length < input.length * size * (ease === 'cubic' ? 3 : 1) || !values.every(Number.isFinite)) continue
    channels.push({ node: at, path, ease, times: Float32Array.from(input), values })
    lengthS = Math.max(lengthS, input[input.length - 1])
  }
  // A node moves when it or any above it has keys.
  const keyed = new Set(channels.map((c) => order[c.node]))
  const moves = new Set<Node>()
  for (const n of order) for (let p: Node | null = n; p; p = p.getParentNode()) if (keyed.has(p)) moves.add(n)
  return { order, nodes, channels, lengthS, moves }
}
/** What of a primitive can move; null when its vertices only stand where their node stands and that has no keys. */
export function pieceOf(
  node: Node,
  primitive: Primitive,
  firstVertex: number,
  places: Float32Array,
  motion: ReturnType<typeof motionOf>,
): MotionPiece | null {
  const skin = node.getSkin()
  const at = motion.order.indexOf(node)
  const joints = skin ? skin.listJoints().map((j) => motion.order.indexOf(j)) : []
  const morphs = primitive.listTargets().flatMap((target) => {
    const offset = target.getAttribute('POSITION')
    if (!offset) return []
    const out = new Float32Array(places.length)
    const e: number[] = []
    for (let i = 0; i < Math.min(offset.getCount(), places.length / 3); i++) {
      offset.getElement(i, e)
      out.set(e.slice(0, 3), i * 3)
    }
    return [out]
  })
  const jointsOf = primitive.getAttribute('JOINTS_0'),
    weightsOf = primitive.getAttribute('WEIGHTS_0')
  const skinned = !!skin && joints.length > 0 && joints.every((j) => j >= 0) && !!jointsOf && !!weightsOf
  if (!skinned && !morphs.length && !motion.moves.has(node)) return null
  const count = places.length / 3
  let bones: MotionPiece['skin'] = null
  if (skinned && skin && jointsOf && weightsOf) {
    const index = new Uint16Array(count * 4),
      weight = new Float32Array(count * 4)
    const e: number[] = []
    for (let i = 0; i < count; i++) {
      jointsOf.getElement(i, e)
      for (let k = 0; k < 4; k++) index[i * 4 + k] = Math.min(joints.length - 1, Math.max(0, e[k]))
      weightsOf.getElement(i, e)
      for (let k = 0; k < 4; k++) weight[i * 4 + k] = Number.isFinite(e[k]) ? e[k] : 0
    }
    const given = skin.getInverseBindMatrices()
    const inverse = new Float32Array(joints.length * 16)
    for (let j = 0; j < joints.length; j++) {
      if (given && j < given.getCount()) {
        given.getElement(j, e)
        inverse.set(e.slice(0, 16), j * 16)
      } else for (let d = 0; d < 4; d++) inverse[j * 16 + d * 5] = 1
    }
    bones = { joints, inverse, index, weight }
  }
  return { firstVertex, vertexCount: count, node: at, places, morphs, skin: bones }
}
