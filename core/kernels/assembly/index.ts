export {
  besideBares,
  besideBlocks,
  besideCores,
  besideKey,
  besideMeasure,
  besideRamps,
  besideRest,
  largestDown,
  mean5,
  nearestRows
} from './beside'
export { premultiply8, premultiply16, seen, unpremultiply8, unpremultiply16 } from './alpha'
export { compare, markEdges } from './compare'
export { crc32 } from './crc'
export { boxAcross, boxDown, largestAcross, raise, weighAcross, weighRow } from './filters'
export { mixBlocks } from './fingerprint'
export { chromaKey, dither8, keyHue, takeBackground, takeOut } from './keys'
export { codes8Of, codes16Of, floatsOf8, floatsOf16 } from './floats'
export { WORK, zlib } from './deflate'
export { countSame, isBlank, look, lookBegin, lookBlank, lookEnd, narrow, widen } from './look'
export { lzwPack } from './lzw'
export { keep, reserve } from './memory'
export { bleed, comb, alphaOf, alphaOf8, islands, runs } from './plane'
export { pngFilter, pngRows, pngSamples, pngUnfilter } from './png'
export { proresAlphaSlice, readingsApart } from './prores-alpha'
export { codeSlice, measureSlice } from './prores-code'
export { fillClear, transformSlice } from './prores-transform'
export { stripRows } from './strip'
export { clearsKnown } from './clears'
export { triples } from './triples'
export { multiplyMarking, SQUARE, turnRow } from './turn'
export { yccToRgba } from './ycc'
export { ffv1Decode, ffv1Encode } from './ffv1'
export { rleDecode, rleEncode, rleWrongAt, rleWrongLine } from './rle'
