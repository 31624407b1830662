export { PACKAGE_BYTES } from '../formats/shotPackage'
export { ASSET_LIMIT_BYTES, assetStream, storeAsset } from './assets'
export { bakedDoc, bakeFrame, bakeSettings, bakeVdb, createBake, listBakes } from './bakes'
export { connect, dataFolder, db } from './db'
export { Failure } from './failure'
export { body, bytesOf, nameSchema, pieces, route } from './http'
export { createRender, deleteJob, hastenJob, jobFile, jobSheet, jobZip, listJobs, renderSettings, resumeJob, stopJob } from './jobs'
export { OPENING_LIMIT_BYTES, readOpening, saveOpening, typeOfOpening } from './openings'
export { packProject, packShot, unpackShot } from './packages'
export { makePreview, PREVIEW_LIMIT_BYTES } from './previews'
export {
  createProject,
  createShot,
  deleteProject,
  deleteShot,
  listProjects,
  listVersions,
  nameVersion,
  PICTURE_LIMIT_BYTES,
  readPicture,
  readShot,
  readVersion,
  renameProject,
  savePicture,
  saveShot,
} from './shots'
export { storeVideo, VIDEO_LIMIT_BYTES } from './videos'
