import type { GasDoc, Shot } from './document'

const inRendersAlone = (g: GasDoc): boolean => !g.muted && g.detail > 1 && g.detailIn === 'renders'
/** Whether renders have detail of gases that the View has not. */
export const lacksDetail = (shot: Shot): boolean => shot.gases.some(inRendersAlone)
/** Without the detail that the View leaves to renders; the same shot where there is none. */
export const withoutDetail = (shot: Shot): Shot =>
  lacksDetail(shot) ? { ...shot, gases: shot.gases.map((g) => (inRendersAlone(g) ? { ...g, detail: 1 } : g)) } : shot
