/** What the compiled kernels take and give. Made by the build from `assembly/`; not to be edited. */
export interface KernelExports {
  readonly memory: WebAssembly.Memory
  besideKey(given: {
    from: number; kind: number; plate: number; surfaces: number; to: number; sure: number; away: number; cross: number;
    cores: number; bares: number; coreRows: number; bareRows: number; width: number; height: number; across: number;
    clear: number; solid: number; noise: number; noisy: number; spill: number; lean: number; channel: number
  }): void
  nearestRows(marked: number, width: number, height: number, rows: number): void
  besideBares(given: {
    away: number; cross: number; meanAway: number; meanCross: number; n: number; across: number; clear: number;
    noiseAway: number; noiseHue: number; smooth: number; bares: number
  }): void
  besideBlocks(given: {
    from: number; kind: number; plate: number; surfaces: number; cores: number; width: number; height: number;
    columns: number; rows: number; colours: number; screens: number; any: number
  }): void
  besideCores(given: {
    away: number; cross: number; wideAway: number; wideCross: number; wideRest: number; most: number; width: number;
    height: number; across: number; noise: number; smooth: number; cores: number
  }): void
  besideRamps(given: {
    cores: number; colours: number; screens: number; any: number; width: number; columns: number; rows: number;
    noise: number
  }): void
  besideRest(from: number, to: number, n: number): void
  largestDown(room: number, to: number, width: number, height: number, reach: number): void
  mean5(given: {
    from: number; across: number; to: number; width: number; height: number; row: number
  }): void
  besideMeasure(given: {
    from: number; kind: number; plate: number; surfaces: number; width: number; height: number; away: number;
    cross: number
  }): void
  premultiply8(given: {
    from: number; to: number; pixels: number; mr: number; mg: number; mb: number
  }): void
  premultiply16(given: {
    from: number; to: number; pixels: number; mr: number; mg: number; mb: number
  }): void
  seen(from: number, pixels: number, sampleBytes: number): number
  unpremultiply8(given: {
    from: number; to: number; pixels: number; mr: number; mg: number; mb: number
  }): void
  unpremultiply16(given: {
    from: number; to: number; pixels: number; mr: number; mg: number; mb: number
  }): void
  compare(given: {
    e: number; f: number; width: number; height: number; top: number; whole: number; above: number; below: number;
    block: number; out: number; bins: number; list: number; rows: number; map: number; waves: number; table: number;
    levels: number
  }): number
  markEdges(given: {
    e: number; rows: number; map: number; width: number; height: number; above: number; below: number
  }): number
  crc32(from: number, n: number, crc: number): number
  boxAcross(from: number, to: number, width: number, height: number, radius: number): void
  boxDown(given: {
    from: number; to: number; width: number; height: number; radius: number; sums: number
  }): void
  largestAcross(given: {
    from: number; to: number; width: number; height: number; reach: number; row: number
  }): void
  raise(to: number, from: number, count: number): void
  weighAcross(given: {
    from: number; to: number; width: number; height: number; places: number; first: number; shares: number; taps: number
  }): void
  weighRow(rows: number, shares: number, taps: number, pixels: number, to: number): void
  mixBlocks(from: number, blocks: number, lanes: number): void
  chromaKey(given: {
    at: number; plate: number; n: number; low: number; high: number; across: number; spill: number; lean: number;
    channel: number
  }): void
  dither8(at: number, n: number, first: number): void
  keyHue(given: {
    from: number; wide: number; plate: number; surfaces: number; width: number; height: number; to: number; row: number;
    under: number; low: number; high: number; across: number; spill: number; lean: number; channel: number
  }): void
  takeBackground(given: {
    at: number; n: number; r: number; g: number; b: number; up: number; down: number
  }): void
  takeOut(at: number, n: number, r: number, g: number, b: number): void
  codes8Of(from: number, to: number, n: number): void
  codes16Of(from: number, to: number, n: number): void
  floatsOf8(from: number, to: number, n: number): void
  floatsOf16(from: number, to: number, n: number): void
  readonly WORK: WebAssembly.Global
  zlib(from: number, n: number, to: number, work: number): number
  countSame(from: number, pixels: number, wanted: bigint): number
  isBlank(from: number, bytes: number): number
  look(given: {
    from: number; first: number; end: number; histogram: number; levels: number; out: number
  }): void
  lookBegin(histogram: number, levels: number, out: number, was8: number): void
  lookBlank(given: {
    from: number; first: number; pixels: number; histogram: number; levels: number; out: number
  }): void
  lookEnd(histogram: number, levels: number, out: number): void
  narrow(from: number, to: number, codes: number): void
  widen(from: number, to: number, codes: number): void
  ledByLuma(asked: number): void
  ledRoom(width: number, height: number, across: number, down: number): number
  lzwPack(from: number, n: number, to: number, table: number): number
  keep(bytes: number): number
  reserve(bytes: number): number
  bleed(given: {
    plane: number; width: number; height: number; nearly: number; within: number; out: number
  }): void
  comb(given: {
    plane: number; width: number; top: number; bottom: number; change: number; lines: number; state: number
  }): number
  alphaOf(from: number, to: number, pixels: number): void
  alphaOf8(from: number, to: number, pixels: number): void
  islands(given: {
    from: number; count: number; parent: number; speck: number; faint: number; out: number
  }): void
  runs(given: {
    plane: number; width: number; top: number; bottom: number; to: number; room: number
  }): number
  pngFilter(given: {
    from: number; to: number; zeros: number; scratch: number; stride: number; height: number; pixelBytes: number
  }): void
  pngRows(from: number, to: number, pixels: number, wide: number, channels: number): void
  pngSamples(from: number, to: number, pixels: number, wide: number, channels: number): void
  pngUnfilter(given: {
    from: number; to: number; zeros: number; stride: number; height: number; pixelBytes: number
  }): number
  proresAlphaSlice(given: {
    from: number; size: number; to: number; stride: number; columns: number; shown: number; rows: number; wide: number
  }): number
  readingsApart(ours: number, theirs: number, n: number, most: number): number
  codeSlice(given: {
    coefficients: number; mbs: number; index: number; alphaBits: number; rgba: number; width: number; height: number;
    x: number; y: number; work: number; to: number
  }): number
  measureSlice(coefficients: number, mbs: number, index: number, work: number, to: number): number
  fillClear(rgba: number, width: number, height: number): void
  transformSlice(given: {
    rgba: number; width: number; height: number; x: number; y: number; mbs: number; kr: number; kb: number;
    planes: number; to: number; field: number
  }): void
  stripRows(given: {
    from: number; to: number; width: number; rows: number; channels: number; wide: number; predicted: number
  }): void
  clearsKnown(clear: number, partial: number, colour: bigint, out: number): void
  triples(given: {
    from: number; plane: number; width: number; height: number; top: number; bottom: number; out: number;
    intercepts: number; bins: number; marks: number; work: number; narrow: number
  }): void
  multiplyMarking(at: number, stride: number, rows: number, used: number, squares: number): void
  readonly SQUARE: WebAssembly.Global
  turnRow(given: {
    from: number; stride: number; rim: number; used: number; squares: number; width: number; height: number; to: number;
    pixels: number; u0: number; v0: number; du: number; dv: number
  }): void
  yccDeepen(at: number, count: number, shift: number): void
  yccToRgba(given: {
    ys: number; us: number; vs: number; as: number; stride: number; width: number; height: number; kr: number;
    kb: number; to: number
  }): void
  yccWiden(given: {
    half: number; from: number; width: number; height: number; shift: number; to: number; stride: number
  }): void
  ffv1Decode(given: {
    from: number; length: number; startAt: number; startLow: number; startRange: number; states: number; tables: number;
    transitions: number; lines: number; to: number; width: number; height: number; bits: number; planes: number;
    first: number; second: number
  }): number
  ffv1Encode(given: {
    samples: number; heldBefore: number; runBefore: number; startLow: number; startRange: number; states: number;
    tables: number; transitions: number; lines: number; to: number; width: number; height: number; bits: number;
    planes: number; first: number; second: number
  }): number
  rleDecode(given: {
    data: number; n: number; from: number; canvas: number; width: number; line: number; lines: number; depth: number
  }): number
  rleEncode(given: {
    pixels: number; before: number; width: number; height: number; depth: number; to: number
  }): number
  rleWrongAt(): number
  rleWrongLine(): number
  textureDecode(from: number, to: number, width: number, height: number, kind: number): void
  textureEncode(given: {
    from: number; width: number; height: number; to: number; kind: number; effort: number; byAlpha: number
  }): void
  planarCode(from: number, count: number, codes: number, to: number, words: number): number
  planarCount(from: number, count: number, counts: number): void
  planarDecode(given: {
    from: number; bytes: number; quick: number; long: number; symbols: number; to: number; count: number; words: number
  }): number
  planarDiffer(given: {
    from: number; count: number; width: number; to: number; start: number; lines: number
  }): void
  planarJoin(given: {
    to: number; pixels: number; green: number; blue: number; red: number; alpha: number; start: number
  }): void
  planarSplit(given: {
    from: number; pixels: number; green: number; blue: number; red: number; alpha: number; start: number
  }): void
  planarSum(at: number, count: number, width: number, start: number, lines: number): void
  vc3Join(given: {
    green: number; blue: number; red: number; stride: number; width: number; height: number; bits: number; to: number
  }): void
  vc3Line(given: {
    from: number; bytes: number; across: number; bits: number; whole: number; more: number; codes: number;
    weights: number; luma: number; first: number; second: number; lumaStride: number; chromaStride: number
  }): number
  vc3Bits(given: {
    coefficients: number; marks: number; across: number; step: number; whole: number; bits: number; more: number;
    codes: number; weights: number; quantiser: number
  }): number
  vc3Code(given: {
    coefficients: number; marks: number; across: number; whole: number; bits: number; more: number; codes: number;
    weights: number; quantiser: number; to: number
  }): number
  vc3SplitRgb(given: {
    from: number; width: number; whole: number; bits: number; green: number; blue: number; red: number
  }): void
  vc3SplitYcc(given: {
    from: number; width: number; whole: number; bits: number; kr: number; kb: number; room: number; luma: number;
    first: number; second: number
  }): void
  vc3Transform(given: {
    luma: number; first: number; second: number; lumaStride: number; chromaStride: number; across: number;
    whole: number; bits: number; to: number
  }): void
  waveletBand(given: {
    from: number; bytes: number; to: number; count: number; table: number; sizes: number
  }): number
  waveletLow(from: number, to: number, count: number): void
  waveletPack(given: {
    green: number; red: number; blue: number; alpha: number; to: number; stride: number; width: number; height: number
  }): void
  waveletSum(at: number, width: number, height: number): void
  waveletUp(given: {
    low: number; highAcross: number; highDown: number; highBoth: number; to: number; width: number; height: number;
    lines: number; shift: number; most: number
  }): void
  waveletCode(from: number, coefficients: number, to: number, table: number): number
  waveletDown(given: {
    from: number; width: number; height: number; low: number; highAcross: number; highDown: number; highBoth: number;
    lines: number; shift: number
  }): void
  waveletLargest(from: number, bytes: number): number
  waveletQuantise(at: number, bytes: number, part: number): void
  waveletUnpack(given: {
    from: number; pixels: number; green: number; red: number; blue: number; alpha: number
  }): void
}

/** The kernels of an instance. */
export function kernelsOf(instance: WebAssembly.Instance): KernelExports {
  const raw = instance.exports as Record<string, (...given: number[]) => unknown>
  return {
    ...(instance.exports as unknown as KernelExports),
    besideKey: given =>
      raw.besideKey!(
        given.from, given.kind, given.plate, given.surfaces, given.to, given.sure, given.away, given.cross, given.cores,
        given.bares, given.coreRows, given.bareRows, given.width, given.height, given.across, given.clear, given.solid,
        given.noise, given.noisy, given.spill, given.lean, given.channel
      ),
    besideBares: given =>
      raw.besideBares!(
        given.away, given.cross, given.meanAway, given.meanCross, given.n, given.across, given.clear, given.noiseAway,
        given.noiseHue, given.smooth, given.bares
      ),
    besideBlocks: given =>
      raw.besideBlocks!(
        given.from, given.kind, given.plate, given.surfaces, given.cores, given.width, given.height, given.columns,
        given.rows, given.colours, given.screens, given.any
      ),
    besideCores: given =>
      raw.besideCores!(
        given.away, given.cross, given.wideAway, given.wideCross, given.wideRest, given.most, given.width, given.height,
        given.across, given.noise, given.smooth, given.cores
      ),
    besideRamps: given =>
      raw.besideRamps!(
        given.cores, given.colours, given.screens, given.any, given.width, given.columns, given.rows, given.noise
      ),
    mean5: given =>
      raw.mean5!(
        given.from, given.across, given.to, given.width, given.height, given.row
      ),
    besideMeasure: given =>
      raw.besideMeasure!(
        given.from, given.kind, given.plate, given.surfaces, given.width, given.height, given.away, given.cross
      ),
    premultiply8: given =>
      raw.premultiply8!(
        given.from, given.to, given.pixels, given.mr, given.mg, given.mb
      ),
    premultiply16: given =>
      raw.premultiply16!(
        given.from, given.to, given.pixels, given.mr, given.mg, given.mb
      ),
    unpremultiply8: given =>
      raw.unpremultiply8!(
        given.from, given.to, given.pixels, given.mr, given.mg, given.mb
      ),
    unpremultiply16: given =>
      raw.unpremultiply16!(
        given.from, given.to, given.pixels, given.mr, given.mg, given.mb
      ),
    compare: given =>
      raw.compare!(
        given.e, given.f, given.width, given.height, given.top, given.whole, given.above, given.below, given.block,
        given.out, given.bins, given.list, given.rows, given.map, given.waves, given.table, given.levels
      ) as number,
    markEdges: given =>
      raw.markEdges!(
        given.e, given.rows, given.map, given.width, given.height, given.above, given.below
      ) as number,
    boxDown: given =>
      raw.boxDown!(
        given.from, given.to, given.width, given.height, given.radius, given.sums
      ),
    largestAcross: given =>
      raw.largestAcross!(
        given.from, given.to, given.width, given.height, given.reach, given.row
      ),
    weighAcross: given =>
      raw.weighAcross!(
        given.from, given.to, given.width, given.height, given.places, given.first, given.shares, given.taps
      ),
    chromaKey: given =>
      raw.chromaKey!(
        given.at, given.plate, given.n, given.low, given.high, given.across, given.spill, given.lean, given.channel
      ),
    keyHue: given =>
      raw.keyHue!(
        given.from, given.wide, given.plate, given.surfaces, given.width, given.height, given.to, given.row,
        given.under, given.low, given.high, given.across, given.spill, given.lean, given.channel
      ),
    takeBackground: given =>
      raw.takeBackground!(
        given.at, given.n, given.r, given.g, given.b, given.up, given.down
      ),
    look: given =>
      raw.look!(
        given.from, given.first, given.end, given.histogram, given.levels, given.out
      ),
    lookBlank: given =>
      raw.lookBlank!(
        given.from, given.first, given.pixels, given.histogram, given.levels, given.out
      ),
    bleed: given =>
      raw.bleed!(
        given.plane, given.width, given.height, given.nearly, given.within, given.out
      ),
    comb: given =>
      raw.comb!(
        given.plane, given.width, given.top, given.bottom, given.change, given.lines, given.state
      ) as number,
    islands: given =>
      raw.islands!(
        given.from, given.count, given.parent, given.speck, given.faint, given.out
      ),
    runs: given =>
      raw.runs!(
        given.plane, given.width, given.top, given.bottom, given.to, given.room
      ) as number,
    pngFilter: given =>
      raw.pngFilter!(
        given.from, given.to, given.zeros, given.scratch, given.stride, given.height, given.pixelBytes
      ),
    pngUnfilter: given =>
      raw.pngUnfilter!(
        given.from, given.to, given.zeros, given.stride, given.height, given.pixelBytes
      ) as number,
    proresAlphaSlice: given =>
      raw.proresAlphaSlice!(
        given.from, given.size, given.to, given.stride, given.columns, given.shown, given.rows, given.wide
      ) as number,
    codeSlice: given =>
      raw.codeSlice!(
        given.coefficients, given.mbs, given.index, given.alphaBits, given.rgba, given.width, given.height, given.x,
        given.y, given.work, given.to
      ) as number,
    transformSlice: given =>
      raw.transformSlice!(
        given.rgba, given.width, given.height, given.x, given.y, given.mbs, given.kr, given.kb, given.planes, given.to,
        given.field
      ),
    stripRows: given =>
      raw.stripRows!(
        given.from, given.to, given.width, given.rows, given.channels, given.wide, given.predicted
      ),
    triples: given =>
      raw.triples!(
        given.from, given.plane, given.width, given.height, given.top, given.bottom, given.out, given.intercepts,
        given.bins, given.marks, given.work, given.narrow
      ),
    turnRow: given =>
      raw.turnRow!(
        given.from, given.stride, given.rim, given.used, given.squares, given.width, given.height, given.to,
        given.pixels, given.u0, given.v0, given.du, given.dv
      ),
    yccToRgba: given =>
      raw.yccToRgba!(
        given.ys, given.us, given.vs, given.as, given.stride, given.width, given.height, given.kr, given.kb, given.to
      ),
    yccWiden: given =>
      raw.yccWiden!(
        given.half, given.from, given.width, given.height, given.shift, given.to, given.stride
      ),
    ffv1Decode: given =>
      raw.ffv1Decode!(
        given.from, given.length, given.startAt, given.startLow, given.startRange, given.states, given.tables,
        given.transitions, given.lines, given.to, given.width, given.height, given.bits, given.planes, given.first,
        given.second
      ) as number,
    ffv1Encode: given =>
      raw.ffv1Encode!(
        given.samples, given.heldBefore, given.runBefore, given.startLow, given.startRange, given.states, given.tables,
        given.transitions, given.lines, given.to, given.width, given.height, given.bits, given.planes, given.first,
        given.second
      ) as number,
    rleDecode: given =>
      raw.rleDecode!(
        given.data, given.n, given.from, given.canvas, given.width, given.line, given.lines, given.depth
      ) as number,
    rleEncode: given =>
      raw.rleEncode!(
        given.pixels, given.before, given.width, given.height, given.depth, given.to
      ) as number,
    textureEncode: given =>
      raw.textureEncode!(
        given.from, given.width, given.height, given.to, given.kind, given.effort, given.byAlpha
      ),
    planarDecode: given =>
      raw.planarDecode!(
        given.from, given.bytes, given.quick, given.long, given.symbols, given.to, given.count, given.words
      ) as number,
    planarDiffer: given =>
      raw.planarDiffer!(
        given.from, given.count, given.width, given.to, given.start, given.lines
      ),
    planarJoin: given =>
      raw.planarJoin!(
        given.to, given.pixels, given.green, given.blue, given.red, given.alpha, given.start
      ),
    planarSplit: given =>
      raw.planarSplit!(
        given.from, given.pixels, given.green, given.blue, given.red, given.alpha, given.start
      ),
    vc3Join: given =>
      raw.vc3Join!(
        given.green, given.blue, given.red, given.stride, given.width, given.height, given.bits, given.to
      ),
    vc3Line: given =>
      raw.vc3Line!(
        given.from, given.bytes, given.across, given.bits, given.whole, given.more, given.codes, given.weights,
        given.luma, given.first, given.second, given.lumaStride, given.chromaStride
      ) as number,
    vc3Bits: given =>
      raw.vc3Bits!(
        given.coefficients, given.marks, given.across, given.step, given.whole, given.bits, given.more, given.codes,
        given.weights, given.quantiser
      ) as number,
    vc3Code: given =>
      raw.vc3Code!(
        given.coefficients, given.marks, given.across, given.whole, given.bits, given.more, given.codes, given.weights,
        given.quantiser, given.to
      ) as number,
    vc3SplitRgb: given =>
      raw.vc3SplitRgb!(
        given.from, given.width, given.whole, given.bits, given.green, given.blue, given.red
      ),
    vc3SplitYcc: given =>
      raw.vc3SplitYcc!(
        given.from, given.width, given.whole, given.bits, given.kr, given.kb, given.room, given.luma, given.first,
        given.second
      ),
    vc3Transform: given =>
      raw.vc3Transform!(
        given.luma, given.first, given.second, given.lumaStride, given.chromaStride, given.across, given.whole,
        given.bits, given.to
      ),
    waveletBand: given =>
      raw.waveletBand!(
        given.from, given.bytes, given.to, given.count, given.table, given.sizes
      ) as number,
    waveletPack: given =>
      raw.waveletPack!(
        given.green, given.red, given.blue, given.alpha, given.to, given.stride, given.width, given.height
      ),
    waveletUp: given =>
      raw.waveletUp!(
        given.low, given.highAcross, given.highDown, given.highBoth, given.to, given.width, given.height, given.lines,
        given.shift, given.most
      ),
    waveletDown: given =>
      raw.waveletDown!(
        given.from, given.width, given.height, given.low, given.highAcross, given.highDown, given.highBoth, given.lines,
        given.shift
      ),
    waveletUnpack: given =>
      raw.waveletUnpack!(
        given.from, given.pixels, given.green, given.red, given.blue, given.alpha
      ),
  }
}
