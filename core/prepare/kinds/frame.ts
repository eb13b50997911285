/** The frame's size and what stands where in it. */
import { cut } from '../../frame/cut'
import type { Box } from '../../base/settings/box'
import { allocateSamples, MAX_PIXELS, type Frame } from '../../frame/frame'
import type { FrameSize } from '../../frame/kernels/kernels'
import { oneField } from '../fields'
import { computed, computedIn } from '../in-light'
import type { Picture } from '../picture'
import { scaled, scaledLight } from '../scale'
import { turned, turnedLight, turnedSize } from '../turn'
import { finer, stepKind, type Shaped, type Surroundings } from '../step'

/** A frame without alpha that grows has clear parts from then on; premultiplied on a colour, they hold that colour. */
function grown(frame: Frame, box: Box): Frame {
  const part = cut(frame, box)
  return frame.alpha.mode === 'none' ? { ...part, alpha: { mode: 'straight' } } : part
}

/** Where the pixels of a new frame come from: the first, and how much further for each to its right and below. */
interface Order {
  start: number
  across: number
  down: number
}

/** The old frame's pixels in another order. */
function rearranged(frame: Frame, width: number, height: number, { start, across, down }: Order): Frame {
  const samples = allocateSamples(width, height, frame.depth)
  // whole words: a pixel has one, two or four
  const aligned = frame.samples.byteOffset % 4 === 0 ? frame.samples : frame.samples.slice()
  const words = frame.depth / 8
  const [from, to] = [
    new Uint32Array(aligned.buffer, aligned.byteOffset, words * width * height),
    new Uint32Array(samples.buffer)
  ]
  for (let y = 0, o = 0; y < height; y++) {
    for (let x = 0, i = words * (start + y * down); x < width; x++, i += words * across)
      for (let w = 0; w < words; w++) to[o++] = from[i + w]!
  }
  return { ...frame, width, height, samples }
}

const tooLarge = (width: number, height: number): string | null =>
  width * height > MAX_PIXELS ? `A frame of ${width}x${height} is larger than Pour takes.` : null
const claimGrown = (facts: Shaped): Partial<Shaped> =>
  facts.claim.mode === 'none' ? { claim: { mode: 'straight', matte: null, says: 'clear around the picture' } } : {}

export const crop = stepKind({
  id: 'crop',
  crops: true,
  group: 'Frame',
  name: 'Crop',
  help:
    'Keeps a part of the frame. Find content sets it to what is visible in any frame; its place in the ' +
    'whole is recorded.',
  fields: {
    box: { type: 'box', label: 'Keep', default: null },
    margin: {
      type: 'number',
      label: 'Margin',
      min: 0,
      max: 1000,
      step: 1,
      unit: 'px',
      default: 0,
      help: 'Added on every side, as far as there is picture.'
    }
  },
  facts: (facts, settings) => {
    const { width, height } = cropBox(facts, settings)
    return { width, height }
  },
  still: (settings, facts) =>
    cropBox(facts, settings).width === facts.width && cropBox(facts, settings).height === facts.height,
  move(frame, settings) {
    const box = cropBox(frame, settings)
    return box.width === frame.width && box.height === frame.height ? frame : cut(frame, box)
  }
})

function cropBox(
  { width, height }: { width: number; height: number },
  { box, margin }: { box: Box | null; margin: number }
): Box {
  if (!box) return { x: 0, y: 0, width, height }
  const left = Math.max(0, Math.min(width - 1, box.x - margin))
  const top = Math.max(0, Math.min(height - 1, box.y - margin))
  return {
    x: left,
    y: top,
    width: Math.max(1, Math.min(width, box.x + box.width + margin) - left),
    height: Math.max(1, Math.min(height, box.y + box.height + margin) - top)
  }
}

const MOST_ASIDE = 8192
const aside = (v: number): number => Math.max(0, Math.min(MOST_ASIDE, Math.round(v)))
const side = (label: string) =>
  ({ type: 'number', label, min: 0, max: MOST_ASIDE, step: 1, unit: 'px', default: 0 }) as const

export const pad = stepKind({
  id: 'pad',
  group: 'Frame',
  name: 'Pad',
  help: 'Adds clear space around the picture.',
  fields: { left: side('Left'), top: side('Top'), right: side('Right'), bottom: side('Bottom') },
  handle: {
    name: 'Draw the frame',
    over: 'given',
    sized: true,
    box: ({ width, height }, { left, top, right, bottom }) => ({
      x: -left,
      y: -top,
      width: width + left + right,
      height: height + top + bottom
    }),
    set: ({ x, y, width, height }, facts) => ({
      left: aside(-x),
      top: aside(-y),
      right: aside(x + width - facts.width),
      bottom: aside(y + height - facts.height)
    })
  },
  facts: (facts, { left, top, right, bottom }) => ({
    width: facts.width + left + right,
    height: facts.height + top + bottom,
    ...claimGrown(facts)
  }),
  still: ({ left, top, right, bottom }) => left === 0 && top === 0 && right === 0 && bottom === 0,
  area: () => 1,
  problem: (facts, { left, top, right, bottom }) => tooLarge(facts.width + left + right, facts.height + top + bottom),
  move: (frame, { left, top, right, bottom }) =>
    grown(frame, { x: -left, y: -top, width: frame.width + left + right, height: frame.height + top + bottom })
})

const FILTERS = [
  { value: 'lanczos', label: 'Sharp' },
  { value: 'smooth', label: 'Smooth, for soft shapes' },
  { value: 'nearest', label: 'Nearest, for pixel art' }
] as const
const filterField = { type: 'choice', label: 'Filter', choices: FILTERS, default: 'lanczos' } as const
const pixels = (label: string, value: number) =>
  ({ type: 'number', label, min: 1, max: 16384, step: 1, unit: 'px', default: value, typed: true }) as const

type Sizing = (
  picture: Picture,
  settings: { readonly filter: string; readonly space: string },
  around: Surroundings
) => Picture

/** How a picture is scaled, coded or as light. */
type Scaling = typeof scaled

/**
 * Both ways of a step that scales: to the size that `inner` gives, in a frame of the size that is to be made, about the
 * middle of both.
 */
function sizing(inner: (picture: FrameSize, made: FrameSize) => FrameSize): Record<'paint' | 'light', Sizing> & {
  area: (given: FrameSize, made: FrameSize, settings: { readonly space: string }) => number | null
} {
  const by =
    (way: Scaling): Sizing =>
    (picture, { filter, space }, { made, kernels }) => {
      const { width, height } = inner(picture, made)
      const make = (given: Picture): Picture => way(given, width, height, filter as 'lanczos', kernels)
      const done = way === scaled ? computed(picture, space, make) : make(picture)
      if (width === made.width && height === made.height) return done
      const box = {
        x: centred(width, made.width),
        y: centred(height, made.height),
        width: made.width,
        height: made.height
      }
      return { width: made.width, height: made.height, rgba: cut(asFloats(done), box).samples as Float32Array }
    }
  return {
    paint: by(scaled),
    light: by(scaledLight),
    area(given, made, { space }) {
      // in light, sums of codes are not kept
      if (space === 'light') return null
      const { width, height } = inner(given, made)
      return (width * height) / (given.width * given.height)
    }
  }
}

/** Where a frame begins in a picture whose middle it shares; below 0 where it is the larger. */
const centred = (size: number, frame: number): number =>
  size >= frame ? Math.floor((size - frame) / 2) : -Math.floor((frame - size) / 2)

export const scale = stepKind({
  id: 'scale',
  group: 'Frame',
  name: 'Scale',
  help: 'By a percentage, always on premultiplied values, so that no rim shows.',
  fields: {
    by: { type: 'number', label: 'To', min: 1, max: 800, step: 1, unit: '%', default: 50 },
    filter: filterField,
    space: computedIn
  },
  facts: (facts, { by }) => ({
    width: Math.max(1, Math.round((facts.width * by) / 100)),
    height: Math.max(1, Math.round((facts.height * by) / 100))
  }),
  still: ({ by }) => by === 100,
  problem: (facts, { by }) => tooLarge((facts.width * by) / 100, (facts.height * by) / 100),
  ...sizing((_, made) => made)
})

/** The size at which pixels are square: the side that has too few of them grows, so that nothing is thrown away. */
function squared({ width, height, pixelAspect: [w, h] }: Pick<Shaped, 'width' | 'height' | 'pixelAspect'>): {
  width: number
  height: number
} {
  return w > h ? { width: Math.round((width * w) / h), height } : { width, height: Math.round((height * h) / w) }
}

export const squarePixels = stepKind({
  id: 'square-pixels',
  group: 'Frame',
  name: 'Make pixels square',
  help: 'Scales the picture by the shape of its pixels, so that it looks right where that is ignored.',
  fields: { filter: filterField, space: computedIn },
  facts: facts => ({ ...squared(facts), pixelAspect: [1, 1] }),
  problem: facts =>
    facts.pixelAspect[0] === facts.pixelAspect[1]
      ? 'Pixels are square already.'
      : tooLarge(squared(facts).width, squared(facts).height),
  ...sizing((_, made) => made)
})

/** The size a picture takes within another, whole. */
function within(
  width: number,
  height: number,
  to: { width: number; height: number }
): { width: number; height: number } {
  const by = Math.min(to.width / width, to.height / height)
  return {
    width: Math.max(1, Math.min(to.width, Math.round(width * by))),
    height: Math.max(1, Math.min(to.height, Math.round(height * by)))
  }
}

/** A picture as the frame of floats that it is. */
const asFloats = ({ width, height, rgba }: Picture): Frame => ({
  width,
  height,
  depth: 32,
  samples: rgba,
  alpha: { mode: 'straight' },
  transfer: 'srgb'
})

export const fit = stepKind({
  id: 'fit',
  group: 'Frame',
  name: 'Fit into a size',
  help: 'Scales the whole picture into a frame of this size, with clear space where its shape differs.',
  fields: { width: pixels('Width', 1920), height: pixels('Height', 1080), filter: filterField, space: computedIn },
  facts: (facts, { width, height }) => ({ width, height, ...claimGrown(facts) }),
  problem: (_, { width, height }) => tooLarge(width, height),
  still: ({ width, height }, facts) => width === facts.width && height === facts.height,
  ...sizing((picture, made) => within(picture.width, picture.height, made))
})

export const fill = stepKind({
  id: 'fill',
  group: 'Frame',
  name: 'Fill a size',
  help: 'Scales the picture until a frame of this size is full, about its middle; what reaches beyond is cut off.',
  fields: { width: pixels('Width', 1920), height: pixels('Height', 1080), filter: filterField, space: computedIn },
  crops: true,
  facts: (_, { width, height }) => ({ width, height }),
  problem: (_, { width, height }) => tooLarge(width, height),
  still: ({ width, height }, facts) => width === facts.width && height === facts.height,
  ...sizing((picture, { width, height }) => {
    const by = Math.max(width / picture.width, height / picture.height)
    return {
      width: Math.max(width, Math.round(picture.width * by)),
      height: Math.max(height, Math.round(picture.height * by))
    }
  })
})

export const stretch = stepKind({
  id: 'stretch',
  group: 'Frame',
  name: 'To an exact size',
  help: 'Scales width and height each by itself, whatever becomes of the picture’s shape.',
  fields: { width: pixels('Width', 1920), height: pixels('Height', 1080), filter: filterField, space: computedIn },
  facts: (_, { width, height }) => ({ width, height }),
  problem: (_, { width, height }) => tooLarge(width, height),
  still: ({ width, height }, facts) => width === facts.width && height === facts.height,
  ...sizing((_, made) => made)
})

const STANDS = [
  { value: 'top-left', label: 'Top left' },
  { value: 'top-right', label: 'Top right' },
  { value: 'middle', label: 'Middle' },
  { value: 'bottom-left', label: 'Bottom left' },
  { value: 'bottom-right', label: 'Bottom right' },
  { value: 'free', label: 'Where it is put' }
] as const

const FARTHEST = 16384
const from = (label: string) =>
  ({
    type: 'number',
    label,
    min: -FARTHEST,
    max: FARTHEST,
    step: 1,
    unit: 'px',
    default: 0,
    typed: true,
    when: { field: 'corner', is: 'free' }
  }) as const

interface Placed {
  width: number
  height: number
  corner: string
  margin: number
  x: number
  y: number
}

/** Where the picture's top left comes to stand in the larger frame. */
function placeOf(
  picture: { width: number; height: number },
  { width, height, corner, margin, x, y }: Placed
): { x: number; y: number } {
  if (corner === 'free') return { x, y }
  if (corner === 'middle')
    return { x: Math.floor((width - picture.width) / 2), y: Math.floor((height - picture.height) / 2) }
  return {
    x: corner.endsWith('right') ? width - margin - picture.width : margin,
    y: corner.startsWith('bottom') ? height - margin - picture.height : margin
  }
}

export const place = stepKind({
  id: 'place',
  group: 'Frame',
  name: 'Place in a larger frame',
  help: 'Sets the picture into a clear frame at its own size: at a corner, in the middle, or where it is put by hand.',
  fields: {
    width: pixels('Width', 1920),
    height: pixels('Height', 1080),
    corner: { type: 'choice', label: 'Stands', choices: STANDS, default: 'bottom-right' },
    margin: {
      type: 'number',
      label: 'Margin',
      min: 0,
      max: 4000,
      step: 1,
      unit: 'px',
      default: 40,
      when: { field: 'corner', not: 'free' }
    },
    x: from('From left'),
    y: from('From top')
  },
  handle: {
    name: 'Move it',
    over: 'made',
    sized: false,
    box: (facts, settings) => ({ ...placeOf(facts, settings), width: facts.width, height: facts.height }),
    set: ({ x, y }) => ({
      corner: 'free',
      x: Math.max(-FARTHEST, Math.min(FARTHEST, Math.round(x))),
      y: Math.max(-FARTHEST, Math.min(FARTHEST, Math.round(y)))
    })
  },
  facts: (facts, { width, height }) => ({ width, height, ...claimGrown(facts) }),
  problem: (_, { width, height }) => tooLarge(width, height),
  still(settings, facts) {
    const { x, y } = placeOf(facts, settings)
    return x === 0 && y === 0 && settings.width === facts.width && settings.height === facts.height
  },
  move(frame, settings) {
    const { x, y } = placeOf(frame, settings)
    return grown(frame, { x: -x, y: -y, width: settings.width, height: settings.height })
  }
})

export const rotate = stepKind({
  id: 'rotate',
  group: 'Frame',
  name: 'Rotate',
  help: 'By quarter turns, without touching a code.',
  fields: {
    turn: {
      type: 'choice',
      label: 'Turn',
      choices: [
        { value: '90', label: '90° clockwise' },
        { value: '180', label: '180°' },
        { value: '270', label: '90° anticlockwise' }
      ],
      default: '90'
    }
  },
  facts: (facts, { turn }) =>
    turn === '180'
      ? {}
      : { width: facts.height, height: facts.width, pixelAspect: [facts.pixelAspect[1], facts.pixelAspect[0]] },
  area: () => 1,
  move(frame, { turn }) {
    const { width: w, height: h } = frame
    if (turn === '180') return rearranged(frame, w, h, { start: w * h - 1, across: -1, down: -w })
    return turn === '90'
      ? rearranged(frame, h, w, { start: (h - 1) * w, across: -w, down: 1 })
      : rearranged(frame, h, w, { start: w - 1, across: w, down: -1 })
  }
})

export const turn = stepKind({
  id: 'turn',
  group: 'Frame',
  name: 'Turn by an angle',
  help:
    'Clockwise about the middle, on premultiplied values. Quarter turns are better made by Rotate, which ' +
    'touches no code.',
  fields: {
    by: { type: 'number', label: 'By', min: -180, max: 180, step: 0.1, unit: '°', default: 5 },
    whole: { type: 'switch', label: 'Frame grows to hold all', default: true },
    space: computedIn
  },
  facts: (facts, { by, whole }) => ({
    ...(whole ? turnedSize(facts.width, facts.height, by) : {}),
    ...finer(facts),
    ...claimGrown(facts)
  }),
  problem(facts, { by }) {
    const { width, height } = turnedSize(facts.width, facts.height, by)
    return facts.pixelAspect[0] === facts.pixelAspect[1]
      ? tooLarge(width, height)
      : 'Turned, pixels that are not square would shear the picture; make them square first.'
  },
  still: ({ by }) => by === 0,
  // a frame that does not grow cuts corners off, and light with them
  area: (_, __, { whole, space }) => (whole && space === 'codes' ? 1 : null),
  paint: (picture, { by, space }, { made, kernels }) =>
    computed(picture, space, given => turned(given, by, made.width, made.height, kernels)),
  light: (picture, { by }, { made }) => turnedLight(picture, by, made.width, made.height)
})

export const progressive = stepKind({
  id: 'one-field',
  group: 'Frame',
  name: 'Keep one field',
  help: 'For interlaced pictures: keeps the lines of one moment and makes those of the other from them.',
  fields: {
    keep: {
      type: 'choice',
      label: 'Lines kept',
      choices: [
        { value: 'upper', label: 'Upper, the first and every second' },
        { value: 'lower', label: 'Lower, the second and every second' }
      ],
      default: 'upper'
    },
    combed: {
      type: 'switch',
      label: 'Only where lines comb',
      default: true,
      help: 'Still parts keep both fields, and with them all their detail.'
    }
  },
  facts: finer,
  paint: (picture, { keep, combed }) => oneField(picture, keep as 'upper', combed)
})

export const flip = stepKind({
  id: 'flip',
  group: 'Frame',
  name: 'Flip',
  help: 'Left to right or top to bottom.',
  fields: {
    way: {
      type: 'choice',
      label: 'Way',
      choices: [
        { value: 'across', label: 'Left to right' },
        { value: 'down', label: 'Top to bottom' }
      ],
      default: 'across'
    }
  },
  area: () => 1,
  move: (frame, { way }) => {
    const { width: w, height: h } = frame
    return way === 'across'
      ? rearranged(frame, w, h, { start: w - 1, across: -1, down: w })
      : rearranged(frame, w, h, { start: (h - 1) * w, across: 1, down: -w })
  }
})
