import { mkdirSync } from 'node:fs'
import { resolve } from 'node:path'
import { pathToFileURL } from 'node:url'
import { build } from 'esbuild'

/** What a piece of source exports that imports from src, bundled first: reading hundreds of files one by one takes every worker seconds. */
export async function source<T>(code: string): Promise<T> {
  const outfile = resolve(
    `test-results/source-${process.pid}-${Math.abs([...code].reduce((h, c) => (h * 31 + c.charCodeAt(0)) | 0, 7))}.mjs`,
  )
  mkdirSync(resolve('test-results'), { recursive: true })
  await build({
    stdin: { contents: code, resolveDir: process.cwd(), loader: 'ts' },
    ...{ bundle: true, platform: 'node', format: 'esm', target: 'es2022', packages: 'external', outfile },
  })
  return (await import(pathToFileURL(outfile).href)) as T
}
