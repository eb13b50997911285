/** Rectangles of a frame, in pixels from its top left. */
export interface Box {
  x: number
  y: number
  width: number
  height: number
}
