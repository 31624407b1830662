type Json = Record<string, unknown>
type Names = Readonly<Record<string, string>>

const MODE = { way: 'mode' }
/** What version 6 calls the parameters of acts and shapes, by their kind. */
const BY_KIND: Readonly<Record<string, Names>> = {
  spin: MODE,
  attract: MODE,
  attractSurface: MODE,
  swarm: MODE,
  noise: MODE,
  path: MODE,
  carry: { ...MODE, mostX: 'maxX', mostY: 'maxY', mostZ: 'maxZ' },
  chase: { most: 'maxAcceleration' },
  speedLimit: { most: 'max', least: 'min' },
  bounce: { keeps: 'restitution' },
  meet: { keeps: 'restitution' },
}
const SYSTEM = { pace: 'timeScale' }
const BODY = { keep: 'restitution' }

const isRecord = (x: unknown): x is Json => typeof x === 'object' && x !== null && !Array.isArray(x)
/** The same fields in the same order under their new names; a document that has both already keeps what it has. */
const rename = (record: Json, names: Names): Json =>
  Object.fromEntries(Object.entries(record).map(([k, v]) => [names[k] && !(names[k] in record) ? names[k] : k, v]))
const list = (x: unknown, each: (record: Json) => Json): unknown => (Array.isArray(x) ? x.map((e) => (isRecord(e) ? each(e) : e)) : x)

/** Everything within a value, itself last. */
function walk(x: unknown, change: (record: Json) => Json): unknown {
  if (Array.isArray(x)) return x.map((e) => walk(e, change))
  if (!isRecord(x)) return x
  return change(Object.fromEntries(Object.entries(x).map(([k, v]) => [k, walk(v, change)])))
}

/** From version 5 to 6: standard terms for fields, in acts, elements and the references to their values. */
export function toStandardTerms(doc: Json): Json {
  const kinds = new Map<string, string>()
  walk(doc, (r) => {
    if (typeof r.kind === 'string' && typeof r.id === 'string') kinds.set(r.id, r.kind)
    return r
  })
  const systems = new Set(Array.isArray(doc.systems) ? doc.systems.filter(isRecord).map((s) => s.id) : [])
  const renamedPath = (element: unknown, path: string): string => {
    if (systems.has(element) && path in SYSTEM) return SYSTEM[path as 'pace']
    const m = /^acts\.([^.]+)\.([^.]+)(.*)$/.exec(path)
    const name = m && BY_KIND[kinds.get(m[1]) ?? '']?.[m[2]]
    return name ? `acts.${m[1]}.${name}${m[3]}` : path
  }
  const named = walk(doc, (r) => {
    const out = typeof r.kind === 'string' && BY_KIND[r.kind] ? rename(r, BY_KIND[r.kind]) : r
    return typeof out.element === 'string' && typeof out.value === 'string' ? { ...out, value: renamedPath(out.element, out.value) } : out
  }) as Json
  return {
    ...named,
    ...('systems' in named ? { systems: list(named.systems, (s) => rename(s, SYSTEM)) } : {}),
    ...('objects' in named ? { objects: list(named.objects, (o) => (isRecord(o.body) ? { ...o, body: rename(o.body, BODY) } : o)) } : {}),
  }
}
