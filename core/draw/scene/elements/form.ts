/** The form of an element: its name, what it looks like, where it lies, what lies under it. */
import type { z } from 'zod'
import type { HexColour } from '../../../base/colour'
import { ElementBase } from '../element'
import { Blend, Glow, Matte, Shadow } from '../values'
import {
  alike,
  boundsOf,
  besideEntry,
  choiceEntry,
  colourEntry,
  entryOf,
  heldTo,
  numberEntry,
  rounded,
  switchEntry,
  wordsEntry,
  type FormEntry,
  type Owner
} from './entry'
import { NO_OFFERS, type Offers } from './kind'
import { kindOf, type Look } from './kinds'

type Element = ElementBase & { look: Look }

const BLACK: HexColour = '#000000'
const UNDER = {
  shadow: { undo: 'Shadow', first: { x: 0, y: 8, soft: 20, colour: BLACK, opacity: 0.5 } },
  glow: { undo: 'Glow', first: { soft: 30, colour: '#e2b242', opacity: 0.8 } }
} as const

function setAdded({ glow }: Element, on: boolean): void {
  if (glow && on) glow.added = true
  else delete glow?.added
}

/** What lies under an element. */
function underEntries(element: Element, own: Owner<Element, Element>, which: keyof typeof UNDER): FormEntry<Element>[] {
  const { undo, first } = UNDER[which]
  const its = { ...own, undo }
  const on = switchEntry(its, undo, element[which] !== null, (now, ticked) =>
    Object.assign(now, { [which]: ticked ? { ...first } : null })
  )
  const now: Glow | null = element[which]
  if (!now) return [on]
  const owner: Owner<Element, Glow> = { name: which, undo, now, at: changed => changed[which] }
  const { shadow } = element
  const cast: Owner<Element, Shadow> | null =
    which === 'shadow' && shadow ? { name: which, undo, now: shadow, at: changed => changed.shadow } : null
  return [
    on,
    colourEntry(owner, 'Its colour', now.colour, (target, hex) => void (target.colour = hex)),
    numberEntry(owner, 'Soft', ['soft', Glow.shape.soft]),
    numberEntry(owner, 'Solid', ['opacity', Glow.shape.opacity], { step: 0.05 }),
    ...(which === 'glow' ? [switchEntry(its, 'Light added', !!now.added, setAdded)] : []),
    ...(cast
      ? [numberEntry(cast, 'Cast across', ['x', Shadow.shape.x]), numberEntry(cast, 'Cast down', ['y', Shadow.shape.y])]
      : [])
  ]
}

/** The fields of its look, of which each changes an element that looks alike. */
const lookEntries = ({ look }: Element, offers: Offers): FormEntry<Element>[] =>
  kindOf(look)
    .entries(look, offers)
    .map(({ set, ...entry }) => ({
      ...entry,
      set: (element, value) => void (element.look.kind === look.kind && set(element.look, value))
    }))

/** A number that stands for itself where it is not written. */
function unsaidEntry(
  own: Owner<Element, Element>,
  label: string,
  [value, usual, of]: [number | undefined, number, z.ZodNumber],
  set: (now: Element, value: number | undefined) => void
): FormEntry<Element> {
  const shown = rounded(value ?? usual)
  const field = { type: 'number', label, typed: true, step: 'any', ...boundsOf(of), default: shown } as const
  return entryOf(own, { field, value: shown }, (now, entered) => {
    const held = heldTo(of, Number(entered))
    set(now, held === usual ? undefined : held)
  })
}

/** How it is stretched, and what it scales and turns about. */
function stretchEntries(element: Element, own: Owner<Element, Element>): FormEntry<Element>[] {
  const { shape } = ElementBase
  const stretch = (label: string, key: 'wide' | 'tall'): FormEntry<Element> =>
    unsaidEntry(own, label, [element[key], 1, shape[key].unwrap()], (now, value) => {
      now[key] = value
    })
  const about = (label: string, key: 'x' | 'y'): FormEntry<Element> =>
    unsaidEntry(own, label, [element.about?.[key], 0, shape[key]], (now, value) => {
      const next = { x: 0, y: 0, ...now.about, [key]: value ?? 0 }
      if (next.x === 0 && next.y === 0) delete now.about
      else now.about = next
    })
  return [
    stretch('Wider, ×', 'wide'),
    stretch('Taller, ×', 'tall'),
    about('Turns about, across', 'x'),
    about('Turns about, down', 'y')
  ]
}

/** The path that it moves along. */
function rideEntries(element: Element, own: Owner<Element, Element>, { paths }: Offers): FormEntry<Element>[] {
  const { rides } = element
  const by = besideEntry(
    own,
    { label: 'Moves along', none: 'no path', help: 'How far along is a value over time' },
    [rides?.path, paths],
    (now, id) => {
      if (id === null) delete now.rides
      else now.rides = { turned: true, ...now.rides, path: id }
    }
  )
  if (!rides) return by
  return [
    ...by,
    switchEntry(own, 'Turned along it', rides.turned, (now, on) => {
      if (now.rides) now.rides.turned = on
    })
  ]
}

/** How it is laid on what lies behind it, and what cuts it. */
function laidOnEntries(element: Element, own: Owner<Element, Element>, { beside }: Offers): FormEntry<Element>[] {
  const usual = { ...own, undo: 'Lay on', now: { ...element, blend: element.blend ?? ('normal' as const) } }
  const { matte } = element
  const cut = { ...own, undo: 'Cut' }
  const by = besideEntry(cut, { label: 'Cut by', none: 'nothing' }, [matte?.by, beside], (now, id) => {
    if (id === null) delete now.matte
    else now.matte = { takes: 'where it is', soft: 0, ...now.matte, by: id }
  })
  const its: Owner<Element, Matte> | null = matte
    ? { name: 'matte', undo: 'Cut', now: matte, at: changed => changed.matte ?? null }
    : null
  return [
    choiceEntry(usual, 'Laid on', ['blend', alike(Blend.options)], {
      help: 'Over what is not solid, only normal is held by alpha'
    }),
    ...by,
    ...(its
      ? [
          choiceEntry(its, 'Seen', ['takes', alike(Matte.shape.takes.options)]),
          numberEntry(its, 'Soft edge', ['soft', Matte.shape.soft])
        ]
      : [])
  ]
}

/** The fields of an element in their order. */
export function elementEntries(element: Element, offers: Offers = NO_OFFERS): FormEntry<Element>[] {
  const { shape } = ElementBase
  const own: Owner<Element, Element> = { name: 'element', undo: 'Move', now: element, at: changed => changed }
  const called = { label: 'Called', most: 80, undo: 'Rename' }
  const name = wordsEntry(own, element.name, called, (now, words) => void (now.name = words))
  const deep = (label: string): FormEntry<Element> =>
    unsaidEntry(own, label, [element.depth, 0, shape.depth.unwrap()], (now, value) => {
      now.depth = value
    })
  const placed = [
    ...(element.rides ? [] : [numberEntry(own, 'Across', ['x', shape.x]), numberEntry(own, 'Down', ['y', shape.y])]),
    ...rideEntries(element, own, offers)
  ]
  if (kindOf(element.look).unseen)
    return [
      name,
      ...placed,
      numberEntry(own, 'Nearer, ×', ['scale', shape.scale]),
      numberEntry(own, 'Turned, °', ['rotation', shape.rotation]),
      deep('Gone in')
    ]
  return [
    name,
    ...lookEntries(element, offers),
    ...placed,
    ...(offers.camera ? [deep('Depth')] : []),
    numberEntry(own, 'Scale', ['scale', shape.scale]),
    numberEntry(own, 'Turned, °', ['rotation', shape.rotation]),
    ...stretchEntries(element, own),
    numberEntry(own, 'Opacity', ['opacity', shape.opacity], { step: 0.05 }),
    choiceEntry(own, 'Kept at', ['pin', alike(shape.pin.options)], {
      help: 'The corner whose distance it keeps in another size',
      undo: 'Pin'
    }),
    ...laidOnEntries(element, own, offers),
    ...underEntries(element, own, 'shadow'),
    ...underEntries(element, own, 'glow')
  ]
}
