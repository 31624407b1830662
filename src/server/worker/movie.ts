import { dirname, join } from 'node:path'
import { type Movie, makeMovie } from '../../hosts/node/movie'
import { frameFile, type RenderSettings } from '../jobs'
import { bareEnv } from '../reader'

/** The movie of a job, from its pictures; its name in the job's folder. */
export async function jobMovie(
  folder: string,
  format: Movie,
  s: RenderSettings,
  rate: { num: number; den: number },
  signal: AbortSignal,
): Promise<string> {
  // 16 bits where they are there: ProRes has ten of light and sixteen of alpha.
  const of = dirname(frameFile(0, format === 'mov' && s.formats.includes('png16') ? 'png16' : 'png'))
  const name = `movie.${format}`
  await makeMovie(
    format,
    {
      // Numbered one after the other, or, of every nth frame, by their names.
      pictures: s.every === 1 ? { pattern: join(folder, of, '%04d.png'), from: s.first } : { glob: join(folder, of, '*.png') },
      rate: { num: rate.num, den: rate.den * s.every },
      alpha: s.transparent,
    },
    join(folder, name),
    { signal, env: bareEnv() },
  )
  return name
}
