/** What broadcast keeps clear at the edges, as shares of width and height: action, then titles (SMPTE ST 2046-1). */
export const SAFE_AREAS = [0.93, 0.9] as const
