/** How a force falls from its middle to its reach, in the order of the kernels. */
export const FALLOFFS = ['even', 'linear', 'smooth', 'steep'] as const
export type Falloff = (typeof FALLOFFS)[number]
/** The smallest soft edge: what is sharp still is a number. */
const SHARP = 1e-9
/** 1 / soft edge. */
export const perSoft = (soft: number): number => 1 / Math.max(soft, SHARP)
/** 1/bias − 2: a bias of a half leaves a falloff as it is (Schlick 1994). */
export const biasOf = (bias = 0.5): number => 1 / Math.min(0.999, Math.max(0.001, bias)) - 2
export const falloffIndex = (f: Falloff): number => FALLOFFS.indexOf(f)
/** Distances that a kernel may square. */
export const finite = (m: number): number => Math.min(m, 1e15)
