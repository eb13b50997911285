/** The ways alpha travels. Another one is a row here, and what it stores in `stored.ts`. */
import { OPAQUE, STRAIGHT, type Frame } from '../../frame/frame'
import type { Carriage, CarriageId } from './carriage'
import { keyed } from '../../frame/keyed'
import type { AlphaHalf } from '../../frame/stacked'

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
  apart: true,
  contents: ({ alpha }) => [{ kind: 'fill', mode: alpha }, { kind: 'alpha' }],
  joinedAlpha: ({ alpha }) => alpha,
  /** Straight until somebody knows better: two files cannot say how the fill stands to its key. */
  join: ([fill, key]) => ({ ...fill!, alpha: STRAIGHT, samples: keyed(fill!.samples, key!.samples) })
}

const stackedAs = (id: CarriageId, half: AlphaHalf, name: string, lies: string): Carriage => ({
  id,
  name,
  help:
    `One picture with alpha as grey ${lies} its colour, for players that put the two together themselves; players that ` +
    'do not know it show both halves.',
  channel: false,
  apart: true,
  half,
  contents: ({ alpha }) => [{ kind: 'stacked', mode: alpha, half }],
  joinedAlpha: ({ alpha }) => alpha,
  // where it is stored is known by who opens it: one picture is read as one picture
  join: alone
})

export const alphaBelow = stackedAs('alpha-below', 'below', 'Alpha below', 'below')
export const alphaBeside = stackedAs('alpha-beside', 'right', 'Alpha beside', 'to the right of')

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

export const carriages: readonly Carriage[] = [channel, fillAndKey, alphaBelow, alphaBeside, alphaAlone, flattened]

/** The carriage of this id. */
export const carriageById = (id: CarriageId): Carriage => carriages.find(carriage => carriage.id === id)!
