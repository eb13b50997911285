/**
 * The GIF library, whichever of its builds the surroundings load: bundlers take its ES build, Node.js its CommonJS one,
 * all in `default`.
 */
import * as gifenc from 'gifenc'

const library = 'GIFEncoder' in gifenc ? gifenc : (gifenc as { default: typeof gifenc }).default

export const { GIFEncoder, applyPalette, quantize } = library
