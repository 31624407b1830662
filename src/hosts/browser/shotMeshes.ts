import { builtKey, filesIn, followingFiles } from '../../acts'
import { boundsOf, isClosed, type Mesh, triangleCount } from '../../engine'
import { readMesh } from '../../formats/mesh'
import { formatProblemText } from '../../formats/result'
import type { AssetFacts } from '../../protocol'
import type { Shot } from '../../shot'
import { build, fileOf, isBuilt } from '../built'

const textOf = (error: unknown): string => (error instanceof Error ? error.message : String(error))

/** What is known of a mesh beside its points. */
export const factsOf = (m: Mesh): AssetFacts => ({
  ...{ bounds: boundsOf(m), parts: m.parts, triangles: triangleCount(m), closed: isClosed(m) },
  ...{ lengthS: m.motion?.lengthS ?? 0, tinted: !!m.colours || !!m.textures },
  ...(m.volume ? { grids: m.volume.grids } : {}),
})
/** The meshes of a shot: read from its files, built of texts and outlines. Each once. */
export class ShotMeshes {
  readonly all = new Map<string, Mesh>()
  /** Files that cannot be read, and why. */
  readonly problems = new Map<string, string>()
  /** Letters that a font lacks, by the text that has them. */
  readonly missingLetters = new Map<string, string>()

  constructor(
    private readonly fetchAsset: (hash: string) => Promise<Uint8Array>,
    private readonly fetchFont: (file: string) => Promise<Uint8Array>,
  ) {}
  /** Those that the shot needs and that were not there; and files of lights that are not to be had. */
  async take(shot: Shot): Promise<{ fresh: [string, Mesh][]; lost: string[] }> {
    const missing = filesIn(shot).filter((h) => !this.all.has(h) && !this.problems.has(h))
    const fresh: [string, Mesh][] = []
    const add = (key: string, mesh: Mesh) => {
      this.all.set(key, mesh)
      fresh.push([key, mesh])
    }
    const following = followingFiles(shot)
    for (const hash of missing) {
      try {
        const r = await readMesh(await this.fetchAsset(hash), following.has(hash))
        if (r.ok) add(hash, r.value)
        else this.problems.set(hash, formatProblemText(r.problem))
      } catch (error) {
        this.problems.set(hash, textOf(error))
      }
    }
    for (const o of shot.objects) {
      const key = builtKey(o.shape)
      if (!key || !isBuilt(o) || this.all.has(key) || this.problems.has(key)) continue
      try {
        const file = fileOf(o)
        const r = await build(o, await ('asset' in file ? this.fetchAsset(file.asset) : this.fetchFont(file.font)))
        if (!r.ok) throw new Error(formatProblemText(r.problem))
        add(key, r.value.mesh)
        if (r.value.missing.length) this.missingLetters.set(key, r.value.missing.join(' '))
      } catch (error) {
        this.problems.set(key, textOf(error))
      }
    }
    const lost = shot.lights.flatMap((l) => (l.asset && missing.includes(l.asset) && !this.all.has(l.asset) ? [l.asset] : []))
    return { fresh, lost }
  }
}
