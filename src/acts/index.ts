export { ambientOf, aroundOf } from './ambient'
export { askedOf, askName, findAsked } from './asks'
export { baseMesh, filesIn, followingFiles, type Meshes, meshOf } from './baseMesh'
export { builtKey, FONTS, OUTLINE_PARAMS, TEXT_PARAMS } from './builtShapes'
export { blurWidth, poseOf, sharpFrom, shotCamera, shotPose, viewPlanes } from './cameras'
export { type Compiled, compile } from './compile'
export { descends } from './compileShed'
export type { Act, Handle, Outline, SentencePart, Sort } from './define'
export type { BlendMode, BuiltBody, Drawing, ReliefDrawing, SolidDrawing, SpriteDrawing, TuftDrawing } from './drawing'
export {
  BODY_PARAMS,
  CAMERA_PARAMS,
  CONTROL_PARAMS,
  OBJECT_PARAMS,
  SYSTEM_PARAMS,
} from './elementParams'
export { CONSTANTS, FUNCTIONS, readFormula } from './expression'
export { bloom } from './finish/bloom'
export {
  type FinishPass,
  type FinishValue,
  type FinishView,
  type Seen,
  SRGB,
  type ToneCurve,
  type ToneDrawing,
  USUAL_TONE,
} from './finishing'
export { fogsAt, isFog } from './fogs'
export { dyesOf } from './gasDyes'
export { lightsAt, marchLook, marchScene, volumeDrawing } from './gasLook'
export { GAS_PARAMS } from './gasParams'
export { type GasRoom, gasMiddle, gasRoom } from './gasRoom'
export { dyeTones, straightTone } from './gasTones'
export { GLOW_PARAMS } from './glowParams'
export { glowClear, glowLine, glowPlace, stuckMiddle } from './glows'
export { LAYER_PARAMS, layerOf, layersOver } from './layerParams'
export { LIGHT_PARAMS } from './lightParams'
export { lightShare, litShot, MOST_SHADOWS, seesOneWay, shadowLight, shadowLights, shiningLights, throwsShadow } from './lit'
export { type Draw, drawOf, drawsByPhase, drawsOf, looksOf, overruledBy, particleLook, partLooks, reliefsOf } from './look'
export { LOOK_SAMPLES, lookTable, nearestSample, sampleLook } from './lookTables'
export { crossAt, crossFrames, keptFrames } from './looping'
export { manual } from './manual'
export { type Mapping, MOST_MAPPINGS, perRange } from './mapped'
export { MASK_PARAMS } from './maskParams'
export { MATERIAL_PARAMS } from './materialParams'
export { meshAsTaken } from './meshFiles'
export { type OwnShape, ownShapes, particleShape, type ShapeMapping, type ShapeValue, shapeValues } from './particleShapes'
export { othersIn, systemMatrices } from './placed'
export { parentsOf, placedMatrix, posedIn, worldMatrix } from './places'
export { Reader, readAs, readerOf } from './reader'
export { type Reference, type ReferenceTo, references, referencesOf } from './references'
export { type Dab, paint, painted } from './regions/painted'
export { ACTS, actOf, actOfSort, actsOfSort, lastOf, registryOf } from './registry'
export { drawnPlaces, type Places } from './reliefs'
export { regionOf, type Shaped, shapedOf } from './reshaped'
export { checkShot, jsonSchema, shotTypes } from './schema'
export { bakedTogether, maySeparate, neededBy, withoutBaked } from './separate'
export { isLine, PRIMITIVES, primitiveOf, shapeMesh } from './shapes'
export { SKY_PARAMS } from './skyParams'
export { INSTANCE_FLOATS, solidInstances } from './solidInstances'
export { isStored } from './storedFeeds'
export { type StripDraw, stripDraw, stripOwner, stripTone } from './strips'
export { touchedFrom, warmFrames } from './touched'
export { drawnByKernels, tuftBalls, tuftLook } from './tufts'
export { fullName, readElements, readers, tieShot, values } from './values'
export { records, sameRecord } from './walk'
