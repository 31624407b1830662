import { setStudio, studio } from '../store'

/** Least and usual sizes of the board, pixels. Above the board at least HEAD stays for the View. */
export const BOARD = { minHeight: 180, minWidth: 300, maxWidth: 560, folded: 28, head: 260 } as const
export const clampHeight = (h: number): number => Math.round(Math.min(innerHeight - BOARD.head, Math.max(BOARD.minHeight, h)))
export const clampWidth = (w: number): number => Math.round(Math.min(BOARD.maxWidth, innerWidth * 0.5, Math.max(BOARD.minWidth, w)))

/** Where the board stands is remembered in this browser; one that keeps nothing gets the usual place. */
export function recallBoard(): void {
  try {
    const kept = JSON.parse(localStorage.getItem('board') ?? 'null') as {
      height?: number
      width?: number
      folded?: boolean
      beside?: boolean
    } | null
    if (kept)
      setStudio({
        boardHeight: clampHeight(kept.height ?? studio().boardHeight),
        boardWidth: clampWidth(kept.width ?? studio().boardWidth),
        folded: !!kept.folded,
        beside: !!kept.beside,
      })
  } catch {
    // Nothing usable was kept.
  }
}
export function keepBoard(): void {
  const { boardHeight, boardWidth, folded, beside } = studio()
  try {
    localStorage.setItem('board', JSON.stringify({ height: boardHeight, width: boardWidth, folded, beside }))
  } catch {
    // Forgetting the place is all that is lost.
  }
}
export function toggleBeside(): void {
  setStudio({ beside: !studio().beside, folded: false })
  keepBoard()
}
export function toggleFolded(): void {
  setStudio({ folded: !studio().folded })
  keepBoard()
}
