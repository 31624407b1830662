// Run after npm install. Some registries carry only the packages of their own platform, and npm then leaves the others out of
// package-lock.json, so that npm ci refuses it. This writes the missing optional packages in by name and version; npm skips those
// of other platforms without fetching them.
import { readFileSync, writeFileSync } from 'node:fs'

const lock = JSON.parse(readFileSync('package-lock.json', 'utf8'))
const OS = ['android', 'darwin', 'freebsd', 'linux', 'win32', 'openbsd', 'netbsd', 'sunos', 'aix', 'openharmony']
const CPU = ['arm64', 'x64', 'ia32', 'arm', 'riscv64', 'ppc64', 's390x', 'loong64', 'mips64el', 'wasm32']
let added = 0
for (const [path, pkg] of Object.entries({ ...lock.packages })) {
  for (const [name, version] of Object.entries(pkg.optionalDependencies ?? {})) {
    if (lock.packages[`node_modules/${name}`] || lock.packages[`${path}/node_modules/${name}`]) continue
    if (!/^\d/.test(version)) throw new Error(`${name} of ${path} has no exact version: ${version}`)
    const words = name.split(/[/.@_-]/)
    const os = OS.find((o) => words.includes(o))
    const cpu = CPU.find((c) => words.includes(c))
    lock.packages[`node_modules/${name}`] = {
      version,
      optional: true,
      ...(pkg.dev ? { dev: true } : {}),
      ...(cpu ? { cpu: [cpu] } : {}),
      ...(os ? { os: [os] } : { os: ['none'] }),
      ...(words.includes('musl') ? { libc: ['musl'] } : {}),
    }
    added++
  }
}
lock.packages = Object.fromEntries(Object.entries(lock.packages).sort(([a], [b]) => (a < b ? -1 : 1)))
writeFileSync('package-lock.json', `${JSON.stringify(lock, null, 2)}\n`)
console.log(`${added} packages of other platforms written in`)
