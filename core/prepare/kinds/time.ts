/** Which frames are shown, in what order, how fast. */
import { parseRate, type Rate } from '../../base/rate'
import { LEFT_OUT_BY_STEP } from '../../source/sound'
import { finer, stepKind, type Shaped, type Use } from '../step'

const MOST_FRAMES = 1_000_000
const all = (facts: Shaped): Use[] => Array.from({ length: facts.frames }, (_, from) => ({ from }))
const count = (label: string, value: number, min = 1) =>
  ({ type: 'number', label, min, max: 100000, step: 1, default: value }) as const

export const range = stepKind({
  id: 'range',
  group: 'Time',
  name: 'Range',
  help: 'Keeps the frames from one number to another.',
  fields: { from: count('From frame', 1), to: { ...count('To frame', 100000), help: 'Beyond the end means the end.' } },
  problem: (facts, { from, to }) =>
    from > facts.frames || to < from ? `There are ${facts.frames} frames; this range has none of them.` : null,
  order: (facts, { from, to }) => ({ frames: all(facts).slice(from - 1, to), rate: facts.rate })
})

export const readRate = stepKind({
  id: 'play-rate',
  group: 'Time',
  name: 'Play at another rate',
  help: 'The same frames, faster or slower.',
  fields: { rate: { type: 'rate', label: 'Frames per second', default: '25' } },
  problem: (_, { rate }) => (parseRate(rate) ? null : 'Give a rate as 25, 23.976 or 24000/1001.'),
  order: (facts, { rate }) => ({ frames: all(facts), rate: parseRate(rate) ?? facts.rate })
})

/** Frames of a clip at another rate over the same time. */
function converted(frames: number, from: Rate, to: Rate, how: string): Use[] {
  const ratio = (from[0] * to[1]) / (from[1] * to[0])
  const length = Math.min(MOST_FRAMES, Math.max(1, Math.round(frames / ratio)))
  return Array.from({ length }, (_, i): Use => {
    // a hair more than the product, which may come out just below a whole number
    const at = i * ratio + 1e-9
    const first = Math.min(frames - 1, Math.floor(at))
    if (how === 'hold') return { from: first }
    if (how === 'nearest') return { from: Math.min(frames - 1, Math.round(at)) }
    const mix = at - first
    return mix < 1e-6 || first === frames - 1 ? { from: first } : { from: first, to: first + 1, mix }
  })
}

export const convertRate = stepKind({
  id: 'convert-rate',
  group: 'Time',
  name: 'Convert the rate',
  help: 'The same length in time, at another rate.',
  fields: {
    rate: { type: 'rate', label: 'Frames per second', default: '25' },
    how: {
      type: 'choice',
      label: 'Frames between',
      choices: [
        { value: 'nearest', label: 'Nearest' },
        { value: 'hold', label: 'Hold the one before' },
        { value: 'blend', label: 'Blend' }
      ],
      default: 'nearest'
    }
  },
  facts: (facts, { how }) => (how === 'blend' ? finer(facts) : {}),
  problem: (facts, { rate }) =>
    !parseRate(rate)
      ? 'Give a rate as 25, 23.976 or 24000/1001.'
      : facts.rate
        ? null
        : 'The source has no rate to convert from; give it first.',
  order(facts, { rate, how }) {
    const to = parseRate(rate)
    return to && facts.rate
      ? { frames: converted(facts.frames, facts.rate, to, how), rate: to }
      : { frames: all(facts), rate: facts.rate }
  }
})

export const reverse = stepKind({
  id: 'reverse',
  group: 'Time',
  name: 'Reverse',
  help: 'Plays backwards.',
  fields: {},
  order: facts => ({ frames: all(facts).reverse(), rate: facts.rate })
})

export const dropLast = stepKind({
  id: 'drop-last',
  group: 'Time',
  name: 'Leave the last frame out',
  help: 'For loops whose last frame repeats the first.',
  fields: {},
  problem: facts => (facts.frames < 2 ? 'There is only one frame.' : null),
  order: facts => ({ frames: all(facts).slice(0, Math.max(1, facts.frames - 1)), rate: facts.rate })
})

export const closeLoop = stepKind({
  id: 'close-loop',
  group: 'Time',
  name: 'Close the loop',
  help:
    'Blends the end into the beginning, so that the last frame leads into the first. The clip is shorter ' +
    'by the frames that are blended.',
  fields: { over: { ...count('Over frames', 6), max: 1000 } },
  facts: finer,
  problem: (facts, { over }) =>
    facts.frames < 2 * over
      ? `With ${facts.frames} frames no more than ${Math.floor(facts.frames / 2)} can be blended.`
      : null,
  order(facts, { over }) {
    const length = facts.frames - over
    // what follows the new last frame comes first, and goes over into the old beginning
    return {
      frames: Array.from({ length }, (_, i): Use =>
        i < over ? { from: length + i, to: i, mix: (i + 1) / (over + 1) } : { from: i }
      ),
      rate: facts.rate
    }
  }
})

export const repeat = stepKind({
  id: 'repeat',
  group: 'Time',
  name: 'Repeat',
  help: 'Plays the whole several times over.',
  fields: { times: { ...count('Times', 2), max: 1000 } },
  problem: (facts, { times }) =>
    facts.frames * times > MOST_FRAMES ? 'This would be more than a million frames.' : null,
  order: (facts, { times }) => ({ frames: Array.from({ length: times }, () => all(facts)).flat(), rate: facts.rate })
})

export const pingPong = stepKind({
  id: 'ping-pong',
  group: 'Time',
  name: 'Ping-pong',
  help: 'Forward, then back; the ends are not shown twice, so that it loops.',
  fields: {},
  order: facts => ({ frames: [...all(facts), ...all(facts).slice(1, -1).reverse()], rate: facts.rate })
})

export const hold = stepKind({
  id: 'hold',
  group: 'Time',
  name: 'Hold first or last',
  help: 'The first frame stands longer at the beginning, the last at the end.',
  fields: { first: count('First, frames more', 0, 0), last: count('Last, frames more', 12, 0) },
  order: (facts, { first, last }) => ({
    frames: [
      ...Array.from({ length: first }, () => ({ from: 0 })),
      ...all(facts),
      ...Array.from({ length: last }, () => ({ from: facts.frames - 1 }))
    ],
    rate: facts.rate
  })
})

export const sound = stepKind({
  id: 'sound',
  group: 'Time',
  name: 'Sound',
  help: 'Whether the sound of the source goes along. Without this step it does.',
  fields: {
    goes: {
      type: 'choice',
      label: 'Sound',
      choices: [
        { value: 'out', label: 'Left out' },
        { value: 'along', label: 'Goes along' }
      ],
      default: 'out'
    }
  },
  order: facts => ({ frames: all(facts), rate: facts.rate }),
  silences: ({ goes }) => (goes === 'out' ? LEFT_OUT_BY_STEP : null)
})
