export { premultiply8, premultiply16, unpremultiply8, unpremultiply16 } from './alpha'
export { pngFilter, pngUnfilter } from './png'
export { reserve } from './memory'
