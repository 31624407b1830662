// Makes what the kernels know of the engine's buffers: src/kernels/layout.ts from engine/memory/layout.ts, and src/kernels/dispatch.ts,
// which calls the kernel of each op, from engine/ops/table.ts. Both are written before every build and never by hand.

import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { build } from 'esbuild'

const upper = (name) => name.replace(/[A-Z]/g, (c) => `_${c}`).toUpperCase()
const constant = (name, type, value) => `export const ${name}: ${type} = ${value}`
const HEAD = '// Made by scripts/kernelTables.mjs of the tables of the engine. Do not edit.\n'

async function tables() {
  const folder = mkdtempSync(join(tmpdir(), 'fox-ember-tables-'))
  try {
    const contents = `export * from './src/engine/memory/columnNames'\nexport * from './src/engine/memory/layout'\nexport * from './src/engine/memory/trailLayout'\nexport * from './src/engine/memory/linkLayout'\nexport * from './src/engine/memory/gasLayout'\nexport * from './src/engine/memory/marchLayout'\nexport * from './src/engine/memory/askLayout'\nexport * from './src/engine/memory/fogLayout'\nexport * from './src/engine/memory/tuftLayout'\nexport * from './src/engine/memory/screenLayout'\nexport { OPS } from './src/engine/ops/table'`
    const outfile = join(folder, 'tables.mjs')
    await build({ stdin: { contents, resolveDir: process.cwd(), loader: 'ts' }, bundle: true, format: 'esm', platform: 'node', outfile })
    return await import(pathToFileURL(outfile).href)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
const offsets = (prefix, record) => [
  ...Object.keys(record.fields).map((field) => constant(`${prefix}_${upper(field)}`, 'usize', record[field])),
  constant(`${prefix}_BYTES`, 'usize', record.bytes),
]
const numbered = (prefix, type, names) =>
  (Array.isArray(names) ? names.map((n, i) => [n, i]) : Object.entries(names)).map(([n, v]) => constant(`${prefix}_${upper(n)}`, type, v))

function layout(t) {
  const words = [
    'JOB',
    'OP',
    'POSE_PATH',
    'COLLIDER',
    'GRID',
    'PASS',
    'PAIR',
    'DISTANCE',
    'VOLUME',
    'BIRTH',
    'NEAREST',
    'TRAILS',
    'TRAIL',
    'TRAIL_MORE',
    'SPAN',
    'STRIP_PIECE',
    'LINKS',
    'LINK_PIECE',
    'LINK',
    'GAS',
    'LEVEL',
    'FEED',
    'DETAIL',
    'MARCH',
    'MARCH_LIGHT',
    'MARCH_BALL',
    'ASK',
    'FOG',
    'FOG_LOOK',
    'FOG_LIGHT',
    'TUFTS',
    'TUFT',
    'TUFT_LIGHT',
    'UNDER',
    'SCREEN',
  ].flatMap((name) => offsets(name, t[name]))
  return [
    HEAD,
    ...t.COLUMNS.map((name, i) => constant(upper(name), 'i32', i)),
    ...words,
    ...numbered('TRAIL_ROW', 'i32', t.TRAIL_ROWS),
    ...numbered('SCRATCH', 'usize', t.SCRATCH),
    ...numbered('JOB_KIND', 'u32', t.JOB_KIND),
    ...numbered('CONTACT_MODE', 'u32', t.CONTACT_MODES),
    ...numbered('MOTION', 'f32', t.MOTION),
    ...numbered('PASS_KIND', 'i32', t.PASSES),
    ...numbered('PAIR_STEP', 'i32', t.PAIR_STEP),
    ...numbered('PAIR_COLUMN', 'usize', t.PAIR_COLUMN),
    ...numbered('BIRTH_KIND', 'i32', t.BIRTH_KIND),
    ...numbered('GAS_STEP', 'u32', t.GAS_STEP),
    ...numbered('MARCH_STEP', 'u32', t.MARCH_STEP),
    ...numbered('TUFT_STEP', 'u32', t.TUFT_STEP),
    ...numbered('SCREEN_CURVE', 'u32', t.SCREEN_CURVE),
    ...numbered('SCREEN_DITHER', 'i32', t.SCREEN_DITHER),
    constant('TUFT_TILE_X', 'i32', t.TUFT_TILE_X),
    constant('TUFT_TILE_Y', 'i32', t.TUFT_TILE_Y),
    ...['LUMPS_SIDE', 'LUMPS_ACROSS', 'LUMPS_SLOPE'].map((name) => constant(name, 'i32', t[name])),
    ...numbered('ASK_STEP', 'u32', t.ASK_STEP),
    constant('SORT_BITS', 'i32', t.SORT_BITS),
    ...numbered('FEED_MODE', 'u32', t.FEED_MODE),
    constant('TILE', 'i32', t.TILE),
    constant('TILE_GRID_BYTES', 'usize', t.TILE_GRID_BYTES),
    constant('SCALAR_COUNT', 'usize', t.SCALAR_COUNT),
    constant('BLUE_NOISE', 'i32', t.BLUE_NOISE),
    constant('FOG_PATCH_RAYS', 'i32', t.FOG_PATCH_RAYS),
    constant('CLOUD_LEAST', 'f32', t.CLOUD_LEAST),
    constant('DETAIL_NOISE_NODES', 'i32', t.DETAIL_NOISE_NODES),
    ...numbered('TREE', 'usize', t.TREE),
    constant('PAIR_LISTED', 'i32', t.PAIR_LISTED),
    constant('NO_TRAIL', 'u32', t.NO_TRAIL),
    constant('TRAIL_FRESH', 'f32', t.TRAIL_FRESH),
    constant('NODE_BYTES', 'usize', t.NODE_BYTES),
    constant('LEAF_BYTES', 'usize', t.LEAF_BYTES),
    ...t.OPS.flatMap((op) => [constant(`OP_${upper(op.name)}`, 'i32', op.code), ...offsets(upper(op.name), op.words)]),
    '',
  ].join('\n')
}
function dispatch({ OPS }) {
  const codes = new Map()
  for (const op of OPS) {
    const other = codes.get(op.code)
    if (other) throw new Error(`the ops ${other} and ${op.name} have the same code, ${op.code}: give one of them another in engine/ops`)
    codes.set(op.code, op.name)
  }
  const of = (group) => OPS.filter((op) => op.group === group)
  const called = [...of('force'), ...of('limit'), ...of('when')]
  const files = [...new Set(called.map((op) => op.kernel))].sort()
  const name = (op) => `OP_${upper(op.name)}`
  const which = (list) => list.map((op) => `code == ${name(op)}`).join(' || ') || 'false'
  const call = (op, args) => `    case ${name(op)}: ${op.name}(${args}); break`
  return [
    HEAD,
    ...files.map(
      (file) =>
        `import { ${called
          .filter((op) => op.kernel === file)
          .map((op) => op.name)
          .join(', ')} } from './${file}'`,
    ),
    `import { ${OPS.map(name).join(', ')} } from './layout'`,
    '',
    '/** Weighs the forces behind it. */',
    '// @ts-ignore: decorator',
    `@inline export function isLimit(code: i32): bool { return ${which(of('limit'))} }`,
    '/** Moves heavy particles less. */',
    '// @ts-ignore: decorator',
    `@inline export function goesByMass(code: i32): bool { return ${which(OPS.filter((op) => op.byMass))} }`,
    '/** Moves particles to where they should be at the end of the substep, by the velocity that gets them there. */',
    '// @ts-ignore: decorator',
    `@inline export function placesByVelocity(code: i32): bool { return ${which(OPS.filter((op) => op.places))} }`,
    '/** Asks where particles are. */',
    '// @ts-ignore: decorator',
    `@inline export function asksWhere(code: i32): bool { return ${which(OPS.filter((op) => op.group === 'limit' || (op.group === 'force' && !op.uniform)))} }`,
    '/** Takes one share for a whole block. */',
    '// @ts-ignore: decorator',
    `@inline export function takesUniform(code: i32): bool { return ${which(OPS.filter((op) => op.uniform))} }`,
    '',
    'export function applyForce(code: i32, columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize, uniform: bool): void {',
    '  switch (code) {',
    ...of('force').map((op) => call(op, `columns, op, begin, n, shares, dts, scratch${op.uniform ? ', uniform' : ''}`)),
    '  }',
    '}',
    'export function applyLimit(code: i32, columns: usize, op: usize, begin: i32, n: i32, amounts: usize, scratch: usize): void {',
    '  switch (code) {',
    ...of('limit').map((op) => call(op, 'columns, op, begin, n, amounts, scratch')),
    '  }',
    '}',
    '/** Leaves moments of a condition in a row. */',
    '// @ts-ignore: decorator',
    `@inline export function isCondition(code: i32): bool { return ${which(of('when'))} }`,
    'export function applyCondition(code: i32, columns: usize, op: usize, begin: i32, n: i32, row: usize, scratch: usize): void {',
    '  switch (code) {',
    ...of('when').map((op) => call(op, 'columns, op, begin, n, row, scratch')),
    '  }',
    '}',
    '/** What may flow in a velocity volume. */',
    'export function applyFlow(code: i32, columns: usize, op: usize, begin: i32, n: i32, shares: usize, dts: usize, scratch: usize): void {',
    '  switch (code) {',
    ...of('force')
      .filter((op) => op.flows)
      .map((op) => call(op, `columns, op, begin, n, shares, dts, scratch${op.uniform ? ', false' : ''}`)),
    '  }',
    '}',
    '',
  ].join('\n')
}
export async function writeKernelTables() {
  const t = await tables()
  writeFileSync('src/kernels/layout.ts', layout(t))
  writeFileSync('src/kernels/dispatch.ts', dispatch(t))
}
