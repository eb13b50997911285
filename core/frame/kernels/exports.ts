/** What the compiled kernels take and give. Made by the build from `assembly/`; not to be edited. */
export interface KernelExports {
  readonly memory: WebAssembly.Memory
  besideKey(
    from: number,
    kind: number,
    plate: number,
    surfaces: number,
    to: number,
    sure: number,
    away: number,
    cross: number,
    cores: number,
    bares: number,
    coreRows: number,
    bareRows: number,
    width: number,
    height: number,
    across: number,
    clear: number,
    solid: number,
    noise: number,
    noisy: number,
    spill: number,
    lean: number,
    channel: number
  ): void
  nearestRows(marked: number, width: number, height: number, rows: number): void
  besideBares(
    away: number,
    cross: number,
    meanAway: number,
    meanCross: number,
    n: number,
    across: number,
    clear: number,
    noiseAway: number,
    noiseHue: number,
    smooth: number,
    bares: number
  ): void
  besideBlocks(
    from: number,
    kind: number,
    plate: number,
    surfaces: number,
    cores: number,
    width: number,
    height: number,
    columns: number,
    rows: number,
    colours: number,
    screens: number,
    any: number
  ): void
  besideCores(
    away: number,
    cross: number,
    wideAway: number,
    wideCross: number,
    wideRest: number,
    most: number,
    width: number,
    height: number,
    across: number,
    noise: number,
    smooth: number,
    cores: number
  ): void
  besideRamps(
    cores: number,
    colours: number,
    screens: number,
    any: number,
    width: number,
    columns: number,
    rows: number,
    noise: number
  ): void
  besideRest(from: number, to: number, n: number): void
  largestDown(room: number, to: number, width: number, height: number, reach: number): void
  mean5(from: number, across: number, to: number, width: number, height: number, row: number): void
  besideMeasure(
    from: number,
    kind: number,
    plate: number,
    surfaces: number,
    width: number,
    height: number,
    away: number,
    cross: number
  ): void
  premultiply8(from: number, to: number, pixels: number, mr: number, mg: number, mb: number): void
  premultiply16(from: number, to: number, pixels: number, mr: number, mg: number, mb: number): void
  seen(from: number, pixels: number, sampleBytes: number): number
  unpremultiply8(from: number, to: number, pixels: number, mr: number, mg: number, mb: number): void
  unpremultiply16(from: number, to: number, pixels: number, mr: number, mg: number, mb: number): void
  compare(
    e: number,
    f: number,
    width: number,
    height: number,
    top: number,
    whole: number,
    above: number,
    below: number,
    block: number,
    out: number,
    bins: number,
    list: number,
    rows: number,
    map: number,
    waves: number,
    table: number,
    levels: number
  ): number
  markEdges(e: number, rows: number, map: number, width: number, height: number, above: number, below: number): number
  crc32(from: number, n: number, crc: number): number
  boxAcross(from: number, to: number, width: number, height: number, radius: number): void
  boxDown(from: number, to: number, width: number, height: number, radius: number, sums: number): void
  largestAcross(from: number, to: number, width: number, height: number, reach: number, row: number): void
  raise(to: number, from: number, count: number): void
  weighAcross(
    from: number,
    to: number,
    width: number,
    height: number,
    places: number,
    first: number,
    shares: number,
    taps: number
  ): void
  weighRow(rows: number, shares: number, taps: number, pixels: number, to: number): void
  mixBlocks(from: number, blocks: number, lanes: number): void
  chromaKey(
    at: number,
    plate: number,
    n: number,
    low: number,
    high: number,
    across: number,
    spill: number,
    lean: number,
    channel: number
  ): void
  dither8(at: number, n: number, first: number): void
  keyHue(
    from: number,
    wide: number,
    plate: number,
    surfaces: number,
    width: number,
    height: number,
    to: number,
    row: number,
    under: number,
    low: number,
    high: number,
    across: number,
    spill: number,
    lean: number,
    channel: number
  ): void
  takeBackground(at: number, n: number, r: number, g: number, b: number, up: number, down: number): void
  takeOut(at: number, n: number, r: number, g: number, b: number): void
  codes8Of(from: number, to: number, n: number): void
  codes16Of(from: number, to: number, n: number): void
  floatsOf8(from: number, to: number, n: number): void
  floatsOf16(from: number, to: number, n: number): void
  readonly WORK: WebAssembly.Global
  zlib(from: number, n: number, to: number, work: number): number
  countSame(from: number, pixels: number, wanted: bigint): number
  isBlank(from: number, bytes: number): number
  look(from: number, first: number, end: number, histogram: number, levels: number, out: number): void
  lookBegin(histogram: number, levels: number, out: number, was8: number): void
  lookBlank(from: number, first: number, pixels: number, histogram: number, levels: number, out: number): void
  lookEnd(histogram: number, levels: number, out: number): void
  narrow(from: number, to: number, codes: number): void
  widen(from: number, to: number, codes: number): void
  ledByLuma(asked: number): void
  ledRoom(width: number, height: number, across: number, down: number): number
  lzwPack(from: number, n: number, to: number, table: number): number
  keep(bytes: number): number
  reserve(bytes: number): number
  bleed(plane: number, width: number, height: number, nearly: number, within: number, out: number): void
  comb(plane: number, width: number, top: number, bottom: number, change: number, lines: number, state: number): number
  alphaOf(from: number, to: number, pixels: number): void
  alphaOf8(from: number, to: number, pixels: number): void
  islands(from: number, count: number, parent: number, speck: number, faint: number, out: number): void
  runs(plane: number, width: number, top: number, bottom: number, to: number, room: number): number
  pngFilter(
    from: number,
    to: number,
    zeros: number,
    scratch: number,
    stride: number,
    height: number,
    pixelBytes: number
  ): void
  pngRows(from: number, to: number, pixels: number, wide: number, channels: number): void
  pngSamples(from: number, to: number, pixels: number, wide: number, channels: number): void
  pngUnfilter(from: number, to: number, zeros: number, stride: number, height: number, pixelBytes: number): number
  proresAlphaSlice(
    from: number,
    size: number,
    to: number,
    stride: number,
    columns: number,
    shown: number,
    rows: number,
    wide: number
  ): number
  readingsApart(ours: number, theirs: number, n: number, most: number): number
  codeSlice(
    coefficients: number,
    mbs: number,
    index: number,
    alphaBits: number,
    rgba: number,
    width: number,
    height: number,
    x: number,
    y: number,
    work: number,
    to: number
  ): number
  measureSlice(coefficients: number, mbs: number, index: number, work: number, to: number): number
  fillClear(rgba: number, width: number, height: number): void
  transformSlice(
    rgba: number,
    width: number,
    height: number,
    x: number,
    y: number,
    mbs: number,
    kr: number,
    kb: number,
    planes: number,
    to: number,
    field: number
  ): void
  stripRows(
    from: number,
    to: number,
    width: number,
    rows: number,
    channels: number,
    wide: number,
    predicted: number
  ): void
  clearsKnown(clear: number, partial: number, colour: bigint, out: number): void
  triples(
    from: number,
    plane: number,
    width: number,
    height: number,
    top: number,
    bottom: number,
    out: number,
    intercepts: number,
    bins: number,
    marks: number,
    work: number,
    narrow: number
  ): void
  multiplyMarking(at: number, stride: number, rows: number, used: number, squares: number): void
  readonly SQUARE: WebAssembly.Global
  turnRow(
    from: number,
    stride: number,
    rim: number,
    used: number,
    squares: number,
    width: number,
    height: number,
    to: number,
    pixels: number,
    u0: number,
    v0: number,
    du: number,
    dv: number
  ): void
  yccToRgba(
    ys: number,
    us: number,
    vs: number,
    as: number,
    stride: number,
    width: number,
    height: number,
    kr: number,
    kb: number,
    to: number
  ): void
  ffv1Decode(
    from: number,
    length: number,
    startAt: number,
    startLow: number,
    startRange: number,
    states: number,
    tables: number,
    transitions: number,
    lines: number,
    to: number,
    width: number,
    height: number,
    bits: number,
    planes: number,
    first: number,
    second: number
  ): number
  ffv1Encode(
    samples: number,
    heldBefore: number,
    runBefore: number,
    startLow: number,
    startRange: number,
    states: number,
    tables: number,
    transitions: number,
    lines: number,
    to: number,
    width: number,
    height: number,
    bits: number,
    planes: number,
    first: number,
    second: number
  ): number
  rleDecode(
    data: number,
    n: number,
    from: number,
    canvas: number,
    width: number,
    line: number,
    lines: number,
    depth: number
  ): number
  rleEncode(pixels: number, before: number, width: number, height: number, depth: number, to: number): number
  rleWrongAt(): number
  rleWrongLine(): number
}
