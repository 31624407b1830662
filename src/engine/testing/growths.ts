import type { GrowthParams } from '../plan'

/** Three straight lines of half a metre without forks, but for what a test says. */
export const growthParams = (o: Partial<GrowthParams> = {}): GrowthParams => ({
  ...{
    lines: 3,
    near: null,
    direction: null,
    directionSpread: 0,
    reach: 0.5,
    reachVary: 0,
    speed: 0.5,
    curl: 0,
    curlVary: 0,
    wander: 0,
    wanderSize: 0.2,
  },
  ...{
    generations: 1,
    spacing: 0.1,
    spacingVary: 0,
    forks: 1,
    angle: 50,
    angleVary: 0,
    childReach: 0.5,
    childSpeed: 1,
    along: null,
    first: 'base',
    meets: 0,
    detail: 0.01,
  },
  ...o,
})
