/** The ways alpha travels. Another one is a row here, and what it stores in `stored.ts`. */
import { OPAQUE, STRAIGHT, type Frame, type Samples } from '../../frame/frame'
import type { Carriage, CarriageId } from './carriage'

/** Luma weights of BT.709 in ten-thousandths; a key is grey, so they matter only where it is not. */
const [RED, GREEN, BLUE] = [2126, 7152, 722] as const

function keyed(fill: Samples, key: Samples): Samples {
  const samples = fill.slice()
  const float = key instanceof Float32Array
  for (let i = 0; i < samples.length; i += 4) {
    const [r, g, b] = [key[i]!, key[i + 1]!, key[i + 2]!]
    // a grey is kept as it is, whatever the weights would round it to
    samples[i + 3] =
      r === g && g === b
        ? g
        : float
          ? (RED * r + GREEN * g + BLUE * b) / 10000
          : Math.round((RED * r + GREEN * g + BLUE * b) / 10000)
  }
  return samples
}

const alone = ([frame]: readonly Frame[]): Frame => frame!

export const channel: Carriage = {
  id: 'colour-alpha',
  name: 'Colour and alpha',
  help: 'One delivery that holds both.',
  channel: true,
  contents: () => [{ kind: 'whole' }],
  joinedAlpha: ({ alpha }) => alpha,
  join: alone
}

export const fillAndKey: Carriage = {
  id: 'fill-key',
  name: 'Fill and key',
  help: 'Two deliveries of equal length, for a chain that takes colour and alpha apart: names end in _fill and _key.',
  channel: false,
  contents: ({ alpha }) => [{ kind: 'fill', mode: alpha }, { kind: 'alpha' }],
  joinedAlpha: ({ alpha }) => alpha,
  /** Straight until somebody knows better: two files cannot say how the fill stands to its key. */
  join: ([fill, key]) => ({ ...fill!, alpha: STRAIGHT, samples: keyed(fill!.samples, key!.samples) })
}

export const alphaAlone: Carriage = {
  id: 'alpha-only',
  name: 'Alpha only',
  help: 'Alpha as a grey picture: white is solid, black is clear.',
  channel: false,
  contents: () => [{ kind: 'alpha' }],
  joinedAlpha: () => OPAQUE,
  join: alone
}

export const flattened: Carriage = {
  id: 'colour-only',
  name: 'Colour only',
  help: 'Solid pictures: what is seen, laid on a colour of your choice.',
  channel: false,
  contents: ({ backing }) => [{ kind: 'flattened', backing }],
  joinedAlpha: () => OPAQUE,
  join: alone
}

export const carriages: readonly Carriage[] = [channel, fillAndKey, alphaAlone, flattened]

/** The carriage of this id. */
export const carriageById = (id: CarriageId): Carriage => carriages.find(carriage => carriage.id === id)!
