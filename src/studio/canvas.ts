/**
 * For the small drawings of the page: drawn by the processor. A 2D canvas on the graphics process makes the page wait until the stage's
 * pictures are through, 200 to 300 ms at a time without a GPU (seen in a trace of a dragged value).
 */
export const PLAIN_2D: CanvasRenderingContext2DSettings = { willReadFrequently: true }
