/** The chroma key: by the colour beside each edge, or by hue alone. */
import { codesToHex } from '../../base/colour'
import { STRAIGHT, type Frame } from '../../frame/frame'
import type { ChromaHow, ScreenPlate } from '../../frame/kernels/kernels'
import { pullBeside, type BesideSettings } from '../beside'
import { chromaHow, estimatePlate, evenPlate, findScreen, pullChroma } from '../chroma'
import { heldFields, isHeld, withHeld } from '../held'
import { alphaOf, unit, type Picture } from '../picture'
import { fitted, percent, pulled } from '../pulled'
import { screenNoise } from '../screen-noise'
import { findShared, isShared } from '../shared-chroma'
import { heldTo, leanOf } from '../spill'
import { stepKind, type Surroundings } from '../step'
import { valuesOf, valuesOfFrame, type Values } from '../values'

export const chromaKey = stepKind({
  id: 'chroma-key',
  bounded: 'hue',
  group: 'Pull',
  name: 'Chroma key',
  help: 'Alpha from a screen of one hue. Screen colour comes out clear, every other solid.',
  fields: {
    screen: { type: 'colour', label: 'Screen', default: '#2a9d4a', found: 'screen' },
    light: {
      type: 'choice',
      label: 'Light',
      choices: [
        { value: 'estimated', label: 'Uneven, estimated' },
        { value: 'even', label: 'Even' },
        { value: 'plate', label: 'From a clean plate' }
      ],
      default: 'estimated'
    },
    plate: {
      type: 'source',
      label: 'Clean plate',
      help: 'The screen without the subject, still or moving.',
      default: '',
      when: { field: 'light', is: 'plate' }
    },
    edges: {
      type: 'choice',
      label: 'Soft edges',
      help: 'By the colour beside them, edges of any hue come out right; by hue alone is faster.',
      choices: [
        { value: 'beside', label: 'Colour beside' },
        { value: 'hue', label: 'Hue alone' }
      ],
      default: 'hue',
      fresh: 'beside'
    },
    clear: {
      ...percent('Clear below', 3, 'Alpha up to here becomes fully clear.'),
      when: { field: 'edges', is: 'beside' }
    },
    solid: {
      ...percent('Solid above', 97, 'Alpha from here on becomes fully solid.'),
      when: { field: 'edges', is: 'beside' }
    },
    low: { ...percent('Clear below', 6, 'Alpha up to here becomes fully clear.'), when: { field: 'edges', is: 'hue' } },
    high: {
      ...percent('Solid above', 86, 'Alpha from here on becomes fully solid.'),
      when: { field: 'edges', is: 'hue' }
    },
    width: {
      type: 'number',
      label: 'Hue width',
      min: 10,
      max: 170,
      step: 1,
      unit: '°',
      default: 70,
      help: 'How far from the screen in hue a colour may lie and still be thought partly screen.',
      when: { field: 'edges', is: 'hue' }
    },
    chroma: {
      type: 'choice',
      label: 'Chroma',
      help: 'Films of 4:2:2 and 4:2:0 share colour between pixels. Led by luma, it comes back to its edges.',
      choices: [
        { value: 'led', label: 'Led by luma, where found' },
        { value: 'kept', label: 'Left as it is' }
      ],
      default: 'kept',
      fresh: 'led',
      when: { field: 'edges', is: 'beside' }
    },
    noise: {
      type: 'choice',
      label: 'Noise',
      help: 'What the screen’s noise makes of alpha becomes clear or solid; the rest keeps its softness.',
      choices: [
        { value: 'measured', label: 'Measured' },
        { value: 'none', label: 'Left as it is' }
      ],
      default: 'none',
      fresh: 'measured'
    },
    spill: percent('Spill removed', 100, 'Screen light on the subject, taken off without changing its brightness.'),
    held: { ...heldTo, label: 'Spill held to' },
    ...heldFields
  },
  facts: pulled,
  problem: (_, { light, plate }) =>
    light === 'plate' && plate === '' ? 'Choose the source that is the clean plate.' : null,
  async codes(frame, settings, around) {
    if (isHeld(settings)) return null
    const plate = await screenSurface(settings, around)
    const keyed = (samples: Frame['samples']): Frame => ({ ...frame, depth: 16, samples, alpha: STRAIGHT })
    if (settings.edges === 'hue')
      return keyed(
        around.kernels.keyHue(frame.samples as Uint8Array, plate, frame, hueOf(settings, valuesOfFrame(frame), plate))
      )
    const values = valuesOfFrame(frame)
    const { kernels } = around
    const how = besideOf(settings)
    const shared = settings.chroma === 'led' ? findShared(values) : null
    const led: Values =
      shared && isShared(shared)
        ? { ...values, samples: kernels.ledByLuma(values.samples, values, shared), unit: 1 / 65535 }
        : values
    return keyed(pullBeside(led, plate, how, { kernels, sure: false }).samples)
  },
  async pixels(settings, around) {
    // noise is measured in the whole picture, and what is held takes what was there
    if (settings.edges === 'beside' || settings.noise === 'measured' || isHeld(settings)) return null
    return pullChroma(await screenSurface(settings, around), around, hueOf(settings, null, null), around.kernels)
  },
  async sureness(picture, settings, around) {
    if (settings.edges !== 'beside') return null
    const sure = await keyedBeside(picture, settings, around, true)
    return { width: picture.width, height: picture.height, alpha: alphaOf(picture), sure: sure! }
  },
  async paint(picture, settings, around) {
    const before = isHeld(settings) ? picture.rgba.slice() : null
    if (settings.edges === 'beside') await keyedBeside(picture, settings, around, false)
    else {
      const plate = await screenSurface(settings, around)
      pullChroma(plate, around, hueOf(settings, valuesOf(picture), plate), around.kernels)(picture.rgba, 0)
    }
    if (before) withHeld(before, picture, settings, around)
    return picture
  }
})

interface Screen {
  screen: string
  light: string
  plate: string
}

/** The screen's colour over the picture, as the settings say it is known. */
async function screenSurface({ screen, light, plate }: Screen, around: Surroundings): Promise<ScreenPlate> {
  const other = light === 'plate' && plate ? await around.other(plate) : null
  if (other) return { rgba: fitted(other, around).rgba }
  return light === 'even'
    ? evenPlate(unit(screen))
    : estimatePlate(around.rows, around.width, around.height, unit(screen))
}

interface HueSettings {
  screen: string
  low: number
  high: number
  width: number
  spill: number
  held: string
  noise: string
}

/** Deviations of noise that hardly a pixel lies beyond. */
const FAR = 4

/** Settings as the kernel takes them; what noise makes of alpha in these values is clear, and the same of solid. */
function hueOf(settings: HueSettings, values: Values | null, plate: ScreenPlate | null): ChromaHow {
  const { screen, low, high, width, spill, held, noise } = settings
  const how = chromaHow({
    screen: unit(screen),
    low: low / 100,
    high: high / 100,
    width,
    spill: spill / 100,
    lean: leanOf(held)
  })
  if (!values || !plate || noise !== 'measured') return how
  const found = screenNoise(values, plate)
  const strays = FAR * Math.hypot(found.away, how.across * found.cross)
  return { ...how, low: Math.max(how.low, strays), high: Math.max(strays, Math.min(how.high, 1 - strays)) }
}

interface ColourBeside extends Screen {
  clear: number
  solid: number
  spill: number
  held: string
  noise: string
  chroma: string
}

const besideOf = ({ screen, clear, solid, spill, held, noise }: ColourBeside): BesideSettings => ({
  screen: unit(screen),
  clear: clear / 100,
  solid: solid / 100,
  spill: spill / 100,
  lean: leanOf(held),
  noise: noise === 'measured'
})

/** Keys a picture by the colour beside its edges, in place; gives how sure that is where it is asked for. */
async function keyedBeside(
  picture: Picture,
  settings: ColourBeside,
  around: Surroundings,
  sure: boolean
): Promise<Float32Array | null> {
  const plate = await screenSurface(settings, around)
  const values = valuesOf(picture)
  const shared = settings.chroma === 'led' ? findShared(values) : null
  if (shared && isShared(shared)) around.kernels.ledByLuma(picture.rgba, picture, shared)
  return pullBeside(values, plate, besideOf(settings), { kernels: around.kernels, sure }).sure
}

/** The screen's colour in a picture, as settings take it. */
export function screenFound(picture: Picture): string {
  const [r, g, b] = findScreen(picture)
  return codesToHex([r * 255, g * 255, b * 255])
}
