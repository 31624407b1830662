import { readdirSync, readFileSync } from 'node:fs'
import { gunzipSync } from 'node:zlib'

const FOLDER = `${__dirname}/../samples`
/** A file that the reference library wrote, or one that is damaged. */
export function sample(name: string): Uint8Array {
  const zipped = readdirSync(FOLDER).includes(`${name}.gz`)
  return zipped ? new Uint8Array(gunzipSync(readFileSync(`${FOLDER}/${name}.gz`))) : new Uint8Array(readFileSync(`${FOLDER}/${name}`))
}
