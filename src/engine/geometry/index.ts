export { type Bvh, buildBvh } from './bvh'
export { bodiesOf, containsPoint, type ExtrudeOptions, enclosing, extrude, signedArea } from './extrude'
export {
  type Bounds,
  boundsOf,
  drawnMesh,
  guideOf,
  isClosed,
  type Mesh,
  type MeshPart,
  type MeshPicture,
  type MeshSurface,
  placeIds,
  planeMesh,
  runningAreas,
  triangleCount,
} from './mesh'
export { type Motion, type MotionChannel, type MotionNode, type MotionPiece, motionAt, nodesAt } from './motion'
export { movedMesh, normalsFor, smoothNormals } from './normals'
export { alongPath, lineThrough, type Point } from './path'
export { box, cone, disc, evenSphere, line, sphere, torus, tube } from './primitives'
export { closeHoles, joinMeshes, type Rebuilt, refine, repeat, repeatedPlaces, subdivide, weld } from './rebuild'
export type { Contour } from './rim'
export { type Level, levelsOf } from './simplify'
export type { RegionAt, SiteBlocks } from './siteLists'
export { edgeSites, LATTICE_CELLS, latticeSites, vertexSites } from './sites'
export type { StoredGrid, StoredGridFacts, StoredVolume } from './stored'
export { stretched, stretchOf } from './stretch'
export { type FaceBlocks, Surface } from './surface'
export { surfaceNets } from './surfaceNets'
export { buildSurfaceTree, type SurfaceTree } from './surfaceTree'
