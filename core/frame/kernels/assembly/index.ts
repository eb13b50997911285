export { besideKey, nearestRows } from './beside'
export { besideBares, besideBlocks, besideCores, besideRamps, besideRest, largestDown, mean5 } from './cores'
export { besideMeasure } from './screen'
export { premultiply8, premultiply16, seen, unpremultiply8, unpremultiply16 } from './alpha'
export { compare, markEdges } from './compare'
export { crc32 } from './crc'
export { boxAcross, boxDown, largestAcross, raise, weighAcross, weighRow } from './filters'
export { mixBlocks } from './fingerprint'
export { chromaKey, dither8, keyHue, takeBackground, takeOut } from './keys'
export { codes8Of, codes16Of, floatsOf8, floatsOf16 } from './floats'
export { WORK, zlib } from './deflate'
export { countSame, isBlank, look, lookBegin, lookBlank, lookEnd, narrow, widen } from './look'
export { ledByLuma, ledRoom } from './led'
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
export { yccDeepen, yccToRgba, yccWiden } from './ycc'
export { ffv1Decode, ffv1Encode } from './ffv1'
export { rleDecode, rleEncode, rleWrongAt, rleWrongLine } from './rle'
export { textureDecode } from './texture'
export { textureEncode } from './texture-code'
export {
  planarCode,
  planarCount,
  planarDecode,
  planarDiffer,
  planarJoin,
  planarSplit,
  planarSum
} from './planar'
export { vc3Join, vc3Line } from './vc3'
export { vc3Bits, vc3Code, vc3SplitRgb, vc3SplitYcc, vc3Transform } from './vc3-code'
export { waveletBand, waveletLow, waveletPack, waveletSum, waveletUp } from './wavelet'
export { waveletCode, waveletDown, waveletLargest, waveletQuantise, waveletUnpack } from './wavelet-code'
