/**
 * Running sums of the areas of a mesh's triangles, times the mean of their corners' amounts when there are some, in double, rounded once;
 * and where to begin in them for `guides` even steps (see engine/geometry/mesh.ts, guideOf, whose numbers these are). `axes`: the upper
 * triangle xx xy xz yy yz zz of what turns own lengths into those of the world, where they differ by direction, or 0. Returns the whole.
 */
export function sumAreas(
  positions: usize,
  indices: usize,
  count: u32,
  amounts: usize,
  areas: usize,
  guide: usize,
  guides: u32,
  axes: usize,
): f32 {
  let sum: f64 = 0
  const xx = axes ? <f64>load<f32>(axes) : 1,
    xy = axes ? <f64>load<f32>(axes, 4) : 0,
    xz = axes ? <f64>load<f32>(axes, 8) : 0,
    yy = axes ? <f64>load<f32>(axes, 12) : 1,
    yz = axes ? <f64>load<f32>(axes, 16) : 0,
    zz = axes ? <f64>load<f32>(axes, 20) : 1
  for (let t: u32 = 0; t < count; t++) {
    const i = indices + <usize>t * 12
    const a = <usize>load<u32>(i),
      b = <usize>load<u32>(i, 4),
      c = <usize>load<u32>(i, 8)
    const p = positions + a * 12,
      q = positions + b * 12,
      r = positions + c * 12
    const ax = <f64>load<f32>(p),
      ay = <f64>load<f32>(p, 4),
      az = <f64>load<f32>(p, 8)
    let ex = <f64>load<f32>(q) - ax,
      ey = <f64>load<f32>(q, 4) - ay,
      ez = <f64>load<f32>(q, 8) - az
    let fx = <f64>load<f32>(r) - ax,
      fy = <f64>load<f32>(r, 4) - ay,
      fz = <f64>load<f32>(r, 8) - az
    if (axes) {
      ex = xx * ex + xy * ey + xz * ez
      ey = yy * ey + yz * ez
      ez = zz * ez
      fx = xx * fx + xy * fy + xz * fz
      fy = yy * fy + yz * fz
      fz = zz * fz
    }
    const nx = ey * fz - ez * fy,
      ny = ez * fx - ex * fz,
      nz = ex * fy - ey * fx
    let area = Math.sqrt(nx * nx + ny * ny + nz * nz) / 2
    if (amounts) area *= (<f64>load<f32>(amounts + a * 4) + <f64>load<f32>(amounts + b * 4) + <f64>load<f32>(amounts + c * 4)) / 3
    sum += area
    store<f32>(areas + ((<usize>t) << 2), <f32>sum)
  }
  const whole = count > 0 ? <f64>load<f32>(areas + ((<usize>(count - 1)) << 2)) : 0
  let at: u32 = 0
  for (let k: u32 = 0; k < guides; k++) {
    const from = (whole * <f64>k) / <f64>guides - whole * 1e-6
    while (at + 1 < count && <f64>load<f32>(areas + ((<usize>at) << 2)) <= from) at++
    store<u32>(guide + ((<usize>k) << 2), at)
  }
  return <f32>whole
}
