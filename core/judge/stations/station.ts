/**
 * A station: how one family of programs takes a delivered file in, and what it would show. It sees nothing but the
 * file: its facts and its samples. Each is a small module of plain data and pure functions in `kinds/`.
 */
import type { HexColour } from '../../base/colour'
import { formatById } from '../../open/registry'
import { OPAQUE, STRAIGHT, type AlphaMode } from '../../frame/frame'
import type { SourceFacts } from '../../source/source'
import type { SeamStep } from '../../frame/seam'
import type { PictureError } from './show'

export const BLACK_MATTE: AlphaMode = { mode: 'premultiplied', matte: '#000000' }

/** How a program holds and lays a picture. */
export interface Taking {
  /** The mode it takes the stored samples to have. */
  alpha: AlphaMode
  /** Whether it lays layers over each other in coded values, as most do, or in linear light. */
  light: 'coded' | 'linear'
  /** What it filters when it draws at another size: colour as premultiplied, or straight colour and alpha apart. */
  texture: 'premultiplied' | 'straight'
  /** Alpha from which a pixel is drawn at all, for programs that only cut. */
  cut?: number
  /** What it lays the picture on and shows in place of the backdrop. */
  onto?: HexColour
  /** The size it draws at by itself, as a share of the picture's. */
  drawn?: number
  /** True where it shows nothing of the file. */
  blank?: boolean
  /** Of stations that are about colour: whether codes are brought to sRGB by the file's label, or shown as they are. */
  colour?: 'by-label' | 'as-srgb'
}

/** Which frames it shows when: a rate of its own, or one still only. */
export type Pace = { kind: 'as-said' } | { kind: 'assumed'; framesPerSecond: number } | { kind: 'still' }

/** What is known at a visit: the file's facts, and the mode its sender means it to have. */
export interface Guest {
  facts: SourceFacts
  due: AlphaMode
}

/** Right as it is; right once the receiver has set something; wrong whatever is set there. */
export type StationVerdict = 'right' | 'setting' | 'wrong'

export interface Judgement {
  standing: StationVerdict
  sentence: string
  /** What is seen there, without what its sender should do about it. */
  seen?: string
}

export interface Station {
  readonly id: string
  readonly name: string
  /** What kind of program it stands for, to go on after "Stands for ". */
  readonly family: string
  /** One sentence for people who do not know such programs. */
  readonly explains: string
  /** 'picture' stations decode the bytes and paint; 'browser' is the page's own player. */
  readonly kind: 'picture' | 'browser'
  /** Null if it opens the file, else a sentence that says why not. */
  refuses(guest: Guest): string | null
  takes(guest: Guest): Taking
  pace?(guest: Guest): Pace
  /** True where it goes from the last frame to the first, so that the seam is seen there. */
  readonly seam?: boolean
  /** A second way it might take the file, when somebody answers its question wrongly. */
  mistaken?(guest: Guest): Taking
  judge(guest: Guest, seen: Visited): Judgement
}

/** What was seen at a visit. */
export interface Visited {
  error: PictureError
  /** Error of the second way, where a station has one. */
  mistaken: PictureError | null
  /** The seam, at stations where it is seen. */
  seam: SeamStep | null
  /** Whether colours under the file's label can be drawn; null at stations that are not about colour. */
  label: 'drawn' | 'unknown' | null
}

/** What programs believe that go by the file's own word; where it has none, straight. */
export function believed({ claim }: SourceFacts): AlphaMode {
  if (claim.mode === 'none') return OPAQUE
  return claim.mode === 'premultiplied' ? { mode: 'premultiplied', matte: claim.matte ?? '#000000' } : STRAIGHT
}

/** `mode`, or no alpha where the file has none. */
export function ifAlpha({ claim }: SourceFacts, mode: AlphaMode): AlphaMode {
  return claim.mode === 'none' ? OPAQUE : mode
}

/** The ordinary way: coded values, premultiplied filtering. */
export function taking(alpha: AlphaMode, more: Partial<Taking> = {}): Taking {
  return { alpha, light: 'coded', texture: 'premultiplied', ...more }
}

/** Whether a guest came as pictures, one a frame. */
export const isSequence = ({ facts }: Guest): boolean => formatById(facts.format).delivers === 'pictures'

/** For stations that open every format: no reason against one. */
export const opensAll = (): null => null

/** A share of 1 in per cent, to a tenth, or that it is less. */
export const share = (part: number): string => (part < 0.001 ? 'less than 0.1 %' : `${Math.round(part * 1000) / 10} %`)

/** Up to this many codes is what rounding alone does. */
export const ROUNDING = 1

/** "Edges turn 31 codes too dark, in 1.4 % of the picture." */
export function sayEdges(error: PictureError): string {
  const tends = error.tends === 'darker' ? 'too dark' : error.tends === 'lighter' ? 'too bright' : 'off in colour'
  return (
    `Edges turn ${error.codes} ${error.codes === 1 ? 'code' : 'codes'} ${tends}, in ` +
    `${share(error.share)} of the picture.`
  )
}

/** "Colours are up to 31 codes off, in 40 % of the picture." */
export function sayColours(error: PictureError): string {
  return (
    `Colours are up to ${error.codes} ${error.codes === 1 ? 'code' : 'codes'} off, in ` +
    `${share(error.share)} of the picture.`
  )
}

export const RIGHT: Judgement = { standing: 'right', sentence: 'Right as it is.' }

/** The usual judgement: right within rounding, else what is seen and what to do. */
export function judged(
  error: PictureError,
  standing: Exclude<StationVerdict, 'right'>,
  remedy: string,
  seen = sayEdges(error)
): Judgement {
  return error.codes <= ROUNDING ? RIGHT : { standing, sentence: `${seen} ${remedy}`, seen }
}

/** "straight", or "premultiplied", as a program's switch would say it. */
export const switchWord = (mode: AlphaMode): string =>
  mode.mode === 'premultiplied'
    ? mode.matte === '#000000'
      ? 'premultiplied'
      : `premultiplied on ${mode.matte}`
    : 'straight'
