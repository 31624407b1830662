import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type Movie, makeMovie } from '../../hosts/node/movie'
import { frameFile, framesOf, MOVIES, type RenderSettings } from '../jobs'
import { bareEnv } from '../reader'

/** The movies of a job: each is made while frames are drawn, in their order, so that little is left to do after the last one. */
export class JobMovies {
  private there = new Set<number>()
  private wake: (() => void)[] = []
  private making: { format: Movie; made: Promise<void> }[]
  private gone = new AbortController()

  constructor(
    private folder: string,
    private settings: RenderSettings,
    rate: { num: number; den: number },
    signal: AbortSignal,
  ) {
    const s = settings
    if (signal.aborted) this.end()
    signal.addEventListener('abort', () => this.end())
    this.making = MOVIES.filter((f) => s.formats.includes(f)).map((format) => {
      const made = makeMovie(
        format,
        { pictures: { pngs: this.pictures(format) }, rate: { num: rate.num, den: rate.den * s.every }, alpha: s.transparent },
        join(folder, `movie.${format}`),
        { signal: this.gone.signal, env: bareEnv() },
      )
      // It is asked for later.
      made.catch(() => {})
      return { format, made }
    })
  }
  /** The file of a frame lies on the disk. */
  add(frame: number): void {
    this.there.add(frame)
    for (const w of this.wake.splice(0)) w()
  }
  private async *pictures(format: Movie): AsyncGenerator<Uint8Array> {
    const { settings: s, folder } = this
    // 16 bits where they are there: ProRes has ten of light and sixteen of alpha.
    const kind = format === 'mov' && s.formats.includes('png16') ? 'png16' : 'png'
    for (const frame of framesOf(s)) {
      while (!this.there.has(frame)) {
        if (this.gone.signal.aborted) throw new Error('the render ended before its movie')
        await new Promise<void>((next) => this.wake.push(next))
      }
      yield await readFile(join(folder, frameFile(frame, kind)))
    }
  }
  /** Their names, when all are whole; every frame must have come. */
  async finish(): Promise<string[]> {
    for (const { made } of this.making) await made
    return this.making.map(({ format }) => `movie.${format}`)
  }
  /** Leaves what is half done. */
  end(): void {
    this.gone.abort()
    for (const w of this.wake.splice(0)) w()
  }
}
