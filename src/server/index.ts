export { ASSET_LIMIT_BYTES, assetStream, storeAsset } from './assets'
export { connect, dataFolder, db } from './db'
export { Failure } from './failure'
export { body, nameSchema, route } from './http'
export { createRender, deleteJob, jobFile, listJobs, renderSettings, resumeJob, stopJob } from './jobs'
export {
  createProject,
  createShot,
  deleteProject,
  deleteShot,
  listProjects,
  listVersions,
  nameVersion,
  readPicture,
  readShot,
  readVersion,
  renameProject,
  savePicture,
  saveShot,
} from './shots'
