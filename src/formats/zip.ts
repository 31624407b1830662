import { Zip, ZipPassThrough } from 'fflate'

/** One file of a ZIP, read when it is its turn. */
export interface ZipEntry {
  name: string
  read(): Promise<Uint8Array>
}
/** Files one after the other as a ZIP, uncompressed: pictures and meshes are so already. No more than one file is in memory at a time. */
export function zipStream(entries: readonly ZipEntry[]): ReadableStream<Uint8Array> {
  let next = 0
  let zip: Zip
  return new ReadableStream<Uint8Array>({
    start(to) {
      zip = new Zip((error, bytes, last) => {
        if (error) to.error(error)
        else {
          if (bytes.length) to.enqueue(bytes)
          if (last) to.close()
        }
      })
    },
    async pull() {
      const entry = entries[next++]
      if (!entry) {
        zip.end()
        return
      }
      const file = new ZipPassThrough(entry.name)
      // Of the same files the same bytes.
      file.mtime = '1980-01-01T00:00:00'
      zip.add(file)
      file.push(await entry.read(), true)
    },
  })
}
