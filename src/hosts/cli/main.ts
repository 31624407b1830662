import { readFileSync } from 'node:fs'
import { Command, InvalidArgumentError } from 'commander'
import { jsonSchema, manual } from '../../acts'
import { formatProblemText, inspectAsset, TABLE_COLUMNS, VDB_GRIDS } from '../../formats'
import { PASS_NAMES } from '../../protocol'
import { readShotFile, UserError } from '../node/shot'
import { bakeShot } from './bake'
import type { RenderOptions } from './render'
import { simulate } from './simulate'

const threads = (text: string): number => {
  const n = Number(text)
  if (!Number.isInteger(n) || n < 1 || n > 64) throw new InvalidArgumentError('must be a whole number from 1 to 64')
  return n
}
const seconds = (text: string): number => {
  const n = Number(text)
  if (!(n >= 0) || !Number.isFinite(n)) throw new InvalidArgumentError('must be a number of seconds, 0 or more')
  return n
}
const atLeastOne = (text: string): number => {
  const n = Number(text)
  if (!Number.isInteger(n) || n < 1) throw new InvalidArgumentError('must be a whole number from 1 on')
  return n
}
// Whoever reads the lines has seen enough and is gone: no more are computed.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0)
  throw error
})
/** A JSON Schema with a line for each of its properties and definitions: to be read and searched, and a third of what it is indented. */
function linesOf(schema: object): string {
  const list = (o: object, depth: string): string =>
    `{\n${Object.entries(o)
      .map(
        ([name, v]) =>
          `${depth}${JSON.stringify(name)}: ${name === 'properties' || name === '$defs' ? list(v, `${depth}  `) : JSON.stringify(v)}`,
      )
      .join(',\n')}\n${depth.slice(2)}}`
  return list(schema, '  ')
}
const program = new Command('ember')
  .description('Fox Ember on the command line: checks, simulates, renders and measures shots.')
  .exitOverride()
program
  .command('schema')
  .description('print the JSON Schema of the shot document')
  .action(() => {
    process.stdout.write(`${linesOf(jsonSchema())}\n`)
  })
program
  .command('manual')
  .description('print the reference of births, modulators, forces, shapes and formulas')
  .action(() => {
    process.stdout.write(`${manual()}\n`)
  })
program
  .command('check')
  .description('say ok, or one line a problem')
  .argument('<file>')
  .action((file: string) => {
    readShotFile(file)
    process.stdout.write('ok\n')
  })
program
  .command('simulate')
  .description('run a shot; one JSON line a frame')
  .argument('<shot>', 'a shot document; - reads it from standard input')
  .option('--frames <A-B>', 'frames to report and write')
  .option('--every <n>', 'every n-th of them', atLeastOne)
  .option('--threads <n>', 'threads to compute with', threads, 1)
  .option('--assets <dir>', 'folder with the assets (default: assets/ beside the shot)')
  .option('--out <dir>', 'folder for files')
  .option('--format <name>', 'of the files: csv, npz (binary, an array for each column), or vdb (gases, one file a frame and gas)')
  .option('--columns <names>', `of the files, by commas: ${TABLE_COLUMNS.join(',')}`)
  .option('--contacts', 'files of the contacts of each frame as well: whose, when, where, how fast, with what')
  .option('--grids <names>', `of VDB files, by commas: ${VDB_GRIDS.join(',')} (default: all that hold anything)`)
  .option('--bits <n>', 'of the numbers in VDB files: 16 or 32 (default: 16)')
  .option('--packing <name>', 'of VDB files: blosc, zip or none (default: blosc)')
  .option('--marks', 'with a mark of all numbers of each frame, to compare runs by')
  .action(simulate)
program
  .command('bake')
  .description('compute frames into a folder, to be drawn or played later; goes on where it was cut off')
  .argument('<shot>')
  .requiredOption('--out <dir>', 'folder for the frames')
  .option('--frames <A-B>', 'frames to bake (default: all of the shot)')
  .option('--elements <names>', 'systems and gases, by commas, that are baked apart from the rest (default: all)')
  .option('--assets <dir>', 'folder with the assets (default: assets/ beside the shot)')
  .option('--threads <n>', 'threads to compute with', threads, 2)
  .option('--state-every <s>', 'seconds of work after which a state to go on from is kept', seconds, 8)
  .action(bakeShot)
program
  .command('render')
  .description('draw frames as PNG or EXR files or movies, with transparency')
  .argument('<shot>')
  .requiredOption('--out <dir>', 'folder for the files')
  .option('--frames <A-B>', 'frames to draw')
  .option('--size <WxH>', 'picture size (default: the shot’s)')
  .option(
    '--bake <dir>',
    'folder of a bake whose frames are drawn where they are as the shot is now; once for each of several bakes',
    (dir: string, before: string[] = []) => [...before, dir],
  )
  .option('--assets <dir>', 'folder with the assets (default: assets/ beside the shot)')
  .option('--threads <n>', 'threads to simulate with', threads, 2)
  .option('--opaque', 'without transparency, on the shot’s background')
  .option('--format <list>', 'png, png16, exr, webm, mp4, mov; several parted by commas (default: png)')
  .option('--float', 'light in EXR files as 32-bit floats in place of halves')
  .option('--passes <list>', `channels of EXR files beside the picture: ${PASS_NAMES.join(', ')}`)
  .option('--every <n>', 'only every nth frame', atLeastOne)
  .option('--region <WxH+X+Y>', 'only this part of the picture, pixels from its upper left corner')
  .option('--sheet', 'a contact sheet of the frames as well')
  .action(async (file: string, o: RenderOptions) => (await import('./render')).render(file, o)) // a browser driver is loaded only when it is needed
program
  .command('package')
  .description('pack a shot with all its assets into one ZIP file')
  .argument('<shot>')
  .requiredOption('--out <file>', 'the ZIP file')
  .option('--assets <dir>', 'folder with the assets (default: assets/ beside the shot)')
  .action(async (file: string, o: { out: string; assets?: string }) => (await import('./package')).packageShot(file, o))
program
  .command('open')
  .description('open a packed shot into a folder')
  .argument('<file>', 'a ZIP file of ember package, or of the page')
  .requiredOption('--out <dir>', 'folder for shot.json and assets/')
  .action(async (file: string, o: { out: string }) => (await import('./package')).openShotPackage(file, o))
program
  .command('bench')
  .description('measure the kernels; a JSON line each')
  .option('--json', 'only JSON lines')
  .option('--only <name>', 'one kernel')
  .action(async (o: { json?: boolean; only?: string }) => (await import('./bench')).bench(o))
program
  .command('inspect')
  .description('read a file that a shot can use and say what it holds, as JSON')
  .argument('<file>')
  .action(async (file: string) => {
    const bytes = readFileSync(file)
    const r = await inspectAsset(bytes)
    if (!r.ok) throw new UserError(formatProblemText(r.problem))
    process.stdout.write(`${JSON.stringify(r.value)}\n`)
  })

/** Ends the program when all of its output has left: a pipe takes long texts piece by piece. */
async function leave(code: number): Promise<never> {
  for (const stream of [process.stdout, process.stderr]) await new Promise<void>((done) => void stream.write('', () => done()))
  process.exit(code)
}
try {
  await program.parseAsync()
  await leave(Number(process.exitCode ?? 0))
} catch (error) {
  if (error instanceof UserError) process.stderr.write(`${error.message}\n`)
  else if (error && typeof error === 'object' && 'exitCode' in error) await leave((error as { exitCode: number }).exitCode)
  else process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : error}\n`)
  await leave(1)
}
