// What the page, the simulation worker and the stage worker say to each other.

export type { Pose } from '../shot'
export { PASS_NAMES, type PassName, type Region, type Wanted } from './outputs'
export type {
  Air,
  Answer,
  AnswerTo,
  Children,
  Died,
  Eye,
  Field,
  Fits,
  GasFacts,
  Histogram,
  Particle,
  Picked,
  Question,
  Series,
  Spread,
  Times,
} from './questions'
export { type Outcome, outcomeOf, Requests, type Settled, valueOr, whyUnanswered } from './requests'
export type { AssetFacts, BakeHead, FromSim, SimStatus, ToSim } from './simulation'
export type {
  BrushHit,
  Drawn,
  FromStage,
  PixelLight,
  PortraitView,
  Scope,
  SecondView,
  SimToStage,
  StageAnswerTo,
  StageRequest,
  StageToSim,
  ToStage,
} from './stage'
