/** The station that is this browser: its own decoder plays the delivered file, and the drawn pixels are read back. */
import type { HalvesHow } from '~~/core/run/handover/halves-page'
import type { HexColour } from '~~/core/base/colour'
import { formatRate, reduceRate, sameRate, secondsOf, type Rate } from '~~/core/base/rate'
import type { SourceSpec, FilesSpec } from '~~/core/source/source'
import type { PictureError } from '~~/core/judge/stations/show'
import type { Judgement } from '~~/core/judge/stations/station'
import { againstSource } from '~~/core/judge/stations/visit'
import type { Pool } from '~~/core/base/pool'
import type { Tasks } from '~~/core/tasks/tasks'
import type { ClosedPage } from './useClosedPage'

export type BrowserPlay = Judgement

export interface Played {
  file: Blob
  type: string
  /** How its picture is put together, where it is two halves. */
  halves: HalvesHow | null
  /** What it should have. */
  due: { frames: number; rate: Rate | null; plays: number | null }
  /** The same bytes as a source, which the drawn frames are held against. */
  delivered: FilesSpec
  /** What it was made from, and which of its frames are due, where that is at hand. */
  source: { spec: SourceSpec; frames: readonly number[] } | null
  backdrop: HexColour
}

/**
 * Blending in 8 bits, premultiplied and back, costs a page up to this many codes; a film's colour is converted and
 * enlarged besides.
 */
const BLEND_SLACK = 2
const FILM_SLACK = 24

/**
 * Plays every frame over `backdrop` in the closed-off page and compares what was drawn with how the delivered frames
 * should look, and those with the source. Rejects when the browser cannot read the file.
 */
export async function playInBrowser(
  page: ClosedPage,
  { file, type, halves, due, delivered, source, backdrop }: Played,
  pool: Pool<Tasks>,
  onProgress: (done: number) => void,
  signal: AbortSignal
): Promise<BrowserPlay> {
  const film = type.startsWith('video/')
  await page.back(backdrop)
  const { frames, plays, microseconds } = await page.open(file, type, { rate: due.rate, halves })
  let worst: PictureError | null = null
  let worstFrame = 1
  let off: PictureError | null = null
  for (let i = 0; i < Math.min(frames, due.frames); i++) {
    signal.throwIfAborted()
    const at = source?.frames[i]
    const reference = source && at !== undefined ? { spec: source.spec, index: at } : null
    const drawn = await page.draw(i, backdrop)
    const judged = await pool.run('judgePicture', [drawn, { delivered, index: i, backdrop, reference }], { signal })
    const error = judged.shown
    if (judged.source && judged.source.share >= (off?.share ?? 0)) off = judged.source
    if (!worst || error.codes > worst.codes) {
      worst = error
      worstFrame = i + 1
    }
    onProgress(i + 1)
  }
  const measured = microseconds > 0 ? reduceRate([frames * 1_000_000, Math.round(microseconds)]) : null
  // durations come in whole microseconds, so the rate is compared within one a frame
  const late = due.rate && measured ? Math.abs(microseconds / frames - (due.rate[1] / due.rate[0]) * 1e6) : 0
  const exact = frames === 1 || !due.rate || !measured || sameRate(measured, due.rate) || late <= 1
  // browsers keep a picture's time in whole milliseconds
  const timed = exact || late < 1000
  const seconds = `${Math.round(microseconds / 1e4) / 100} s`
  const rounded =
    exact || Math.abs(microseconds / 1e6 - secondsOf(frames, due.rate!)) < 0.005
      ? ''
      : ` It keeps time in whole milliseconds, so the clip takes ${seconds} instead of ` +
        `${Math.round(secondsOf(frames, due.rate!) * 100) / 100} s.`
  const counted = frames === due.frames
  const looped = film || frames === 1 || due.plays === null || plays === (due.plays === 0 ? Infinity : due.plays)
  const slack = film ? FILM_SLACK : BLEND_SLACK
  const clean = worst !== null && worst.codes <= slack
  const faults = [
    !counted && `It shows ${frames} frames instead of ${due.frames}.`,
    !timed &&
      `It takes ${seconds}, ${measured ? formatRate(measured) : 'no'} frames per second instead of ` +
        `${formatRate(due.rate!)}.`,
    !looped &&
      `It plays ${plays === Infinity ? 'for ever' : `${plays} times`} instead of ` +
        `${due.plays === 0 ? 'for ever' : `${due.plays} times`}.`,
    !clean && worst && `Colours are off by up to ${worst.codes} codes, in frame ${worstFrame}.`
  ].filter(Boolean)
  const loops =
    film || frames === 1
      ? ''
      : `, ${plays === Infinity ? 'looping' : plays === 1 ? 'playing once' : `playing ${plays} times`}`
  const played: Judgement = {
    standing: faults.length === 0 ? 'right' : 'wrong',
    sentence: faults.length
      ? faults.join(' ')
      : `Right: ${frames} ${frames === 1 ? 'frame' : 'frames'} over ${backdrop}, ` +
        `${worst!.codes === 0 ? 'not a code off' : `at most ${worst!.codes} ${worst!.codes === 1 ? 'code' : 'codes'} off by its own ${film ? 'colour conversion and ' : ''}blending`}${loops}.${rounded}`
  }
  return againstSource(played, off)
}
