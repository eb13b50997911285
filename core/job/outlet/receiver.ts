/**
 * What a receiver demands of deliveries, as a file that comes from them or is written down once; and what of it a pour
 * would not meet.
 */
import { z } from 'zod'
import { sentenceOf } from '../../base/errors'
import { FORMAT_IDS } from '../../open/registry'
import { formatById } from '../../open/registry'
import { Depth } from '../../frame/frame'
import { stepKindById } from '../../prepare/kinds'
import { newStep, type Step } from '../../prepare/preparation'
import { formatRate, rateFraction, Rate, sameRate, secondsOf } from '../../base/rate'
import { sayIssue } from '../../base/say-issue'
import type { PourPlan } from './plan'
import { withFormat, type Outlet } from './outlet'

const side = z.number().int().min(1).max(65535)

/** Every demand but the name may be left open. */
export const Receiver = z.object({
  pour: z.literal('receiver'),
  version: z.literal(1),
  name: z.string().min(1).max(80),
  size: z.object({ width: side, height: side }).nullable().default(null),
  rate: Rate.nullable().default(null),
  formats: z.array(z.enum(FORMAT_IDS)).max(FORMAT_IDS.length).default([]),
  alpha: z.enum(['straight', 'premultiplied', 'none']).nullable().default(null),
  /** Bits of colour, at least. */
  depth: Depth.nullable().default(null),
  longestSeconds: z.number().positive().max(86_400).nullable().default(null),
  largestBytes: z.number().int().min(1).nullable().default(null),
  /** What file names begin with. */
  namesBegin: z.string().max(80).nullable().default(null),
  sound: z.enum(['none', 'needed']).nullable().default(null)
})
export type Receiver = z.infer<typeof Receiver>

/** A receiver that demands nothing yet. */
export const emptyReceiver = (name: string): Receiver => Receiver.parse({ pour: 'receiver', version: 1, name })

/** The text of a receiver's file. */
export const writeReceiver = (receiver: Receiver): string => `${JSON.stringify(receiver, null, 2)}\n`

/** Reads a receiver's demands; throws a plain Error with one sentence where the text is none. */
export function readReceiver(text: string): Receiver {
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch (error) {
    throw new Error(`These are not the demands of a receiver: it is not JSON (${sentenceOf(error)}).`, { cause: error })
  }
  const read = Receiver.safeParse(value)
  if (!read.success)
    throw new Error(`These are not the demands of a receiver. ${sayIssue(read.error.issues[0]!, undefined, value)}`)
  return read.data
}

/** What demands are waived by. */
export const DEMANDS = ['format', 'size', 'rate', 'alpha', 'depth', 'length', 'weight', 'name', 'sound'] as const

/** Something that is not as the receiver asks. */
export interface Unmet {
  id: (typeof DEMANDS)[number]
  sentence: string
  /** What makes it so: the outlet changed, where one change does. */
  mend?: { label: string; outlet: Outlet }
}

const MARK = 'receiver '

/** The outlet with one more step; one of the same kind that was added for a receiver before makes way. */
function stepped(outlet: Outlet, kind: string, settings: Step['settings']): Outlet {
  const id = MARK + kind
  const made = newStep(id, stepKindById(kind), settings)
  return { ...outlet, steps: [...outlet.steps.filter(step => step.id !== id), made] }
}

/** All that a pour would not meet. `bytes` is what it came to, or is judged to come to; null where nobody knows. */
export function unmet(plan: PourPlan, receiver: Receiver, bytes: number | null): Unmet[] {
  const { outlet, deliverable, due } = plan
  const found: Unmet[] = []
  const { size, rate, formats, alpha, depth, longestSeconds, largestBytes, namesBegin, sound } = receiver
  const says = receiver.name
  if (formats.length && !formats.includes(outlet.format)) {
    const [first] = formats.filter(id => !formatById(id).readOnly)
    const names = formats.map(id => formatById(id).name).join(' or ')
    found.push({
      id: 'format',
      sentence: `${says} takes ${names}, not ${formatById(outlet.format).name}.`,
      ...(first
        ? { mend: { label: `Deliver ${formatById(first).name}`, outlet: withFormat(outlet, formatById(first)) } }
        : {})
    })
  }
  if (size && (deliverable.width !== size.width || deliverable.height !== size.height))
    found.push({
      id: 'size',
      sentence: `${says} asks for ${size.width}x${size.height}; this is ${deliverable.width}x${deliverable.height}.`,
      mend: { label: `Fit into ${size.width}x${size.height}`, outlet: stepped(outlet, 'fit', { ...size }) }
    })
  if (rate && (!deliverable.rate || !sameRate(deliverable.rate, rate)))
    found.push({
      id: 'rate',
      sentence:
        `${says} asks for ${formatRate(rate)} f/s; this plays at ` +
        `${deliverable.rate ? formatRate(deliverable.rate) : 'no known rate'}.`,
      ...(deliverable.rate
        ? {
            mend: {
              label: `Convert to ${formatRate(rate)} f/s`,
              outlet: stepped(outlet, 'convert-rate', { rate: rateFraction(rate) })
            }
          }
        : {})
    })
  if (alpha && due.alpha.mode !== alpha) {
    const can = formatById(outlet.format).alpha[alpha].can
    found.push({
      id: 'alpha',
      sentence:
        `${says} asks for ${alpha === 'none' ? 'no alpha' : `${alpha} alpha`}; this is ` +
        `${due.alpha.mode === 'none' ? 'without alpha' : due.alpha.mode}.`,
      ...(can
        ? {
            mend: {
              label: `Deliver ${alpha === 'none' ? 'without alpha' : alpha}`,
              outlet: {
                ...outlet,
                alpha: alpha === 'premultiplied' ? { mode: alpha, matte: '#000000' } : { mode: alpha }
              }
            }
          }
        : {})
    })
  }
  const { colourBits } = formatById(outlet.format).depths.find(each => each.depth === outlet.depth) ?? { colourBits: 0 }
  if (depth && colourBits < depth) {
    const deeper = formatById(outlet.format).depths.find(each => each.colourBits >= depth)
    found.push({
      id: 'depth',
      sentence: `${says} asks for ${depth} bits at least; this has ${colourBits}.`,
      ...(deeper
        ? { mend: { label: `Deliver ${deeper.colourBits} bits`, outlet: { ...outlet, depth: deeper.depth } } }
        : {})
    })
  }
  const seconds = deliverable.rate ? secondsOf(deliverable.frames, deliverable.rate) : null
  if (longestSeconds && seconds !== null && seconds > longestSeconds + 1e-9)
    found.push({
      id: 'length',
      sentence: `${says} takes ${longestSeconds} s at most; this lasts ${Math.round(seconds * 100) / 100} s.`
    })
  if (largestBytes && bytes !== null && bytes > largestBytes)
    found.push({ id: 'weight', sentence: `${says} takes ${largestBytes} bytes at most; this comes to ${bytes}.` })
  if (namesBegin && !plan.fileName.startsWith(namesBegin))
    found.push({
      id: 'name',
      sentence: `${says} asks for names that begin with “${namesBegin}”; this is called ${plan.fileName}.`,
      mend: {
        label: `Begin it with ${namesBegin}`,
        outlet: { ...outlet, namePattern: `${namesBegin}${outlet.namePattern}`.slice(0, 200) }
      }
    })
  if (sound === 'none' && deliverable.sound)
    found.push({
      id: 'sound',
      sentence: `${says} takes no sound; this has some.`,
      mend: { label: 'Leave sound out', outlet: { ...outlet, sound: 'none' } }
    })
  if (sound === 'needed' && !deliverable.sound)
    found.push({ id: 'sound', sentence: `${says} asks for sound; there is none in this.` })
  return found
}
