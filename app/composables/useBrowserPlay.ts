/** The station that is this browser: its own decoder plays the delivered file, and the drawn pixels are read back. */
import type { HexColour } from '~~/core/colour'
import { formatRate, reduceRate, sameRate, secondsOf, type Rate } from '~~/core/rate'
import type { SourceSpec } from '~~/core/source/source'
import type { PictureError } from '~~/core/stations/show'
import type { Pool } from '~~/core/work/pool'

/** The part of the ImageDecoder interface (W3C WebCodecs) that is used here; TypeScript's own library lacks it. */
interface Decoder {
  tracks: { ready: Promise<void>; selectedTrack: { frameCount: number; repetitionCount: number; animated: boolean } | null }
  completed: Promise<void>
  decode(options: { frameIndex: number; completeFramesOnly: boolean }): Promise<{ image: VideoFrame }>
  close(): void
}
type DecoderClass = new (init: { data: ReadableStream | ArrayBuffer; type: string }) => Decoder

export interface BrowserPlay {
  frames: number
  /** Plays; Infinity for ever. */
  plays: number
  rate: Rate | null
  /** The worst error of any frame over the backdrop. */
  worst: PictureError
  worstFrame: number
  /** Rounding of the screen's own 8-bit blending. */
  right: boolean
  sentence: string
}

/** Blending in 8 bits, premultiplied and back, costs a page up to this many codes. */
const BLEND_SLACK = 2

/**
 * Plays every frame over `backdrop` on a canvas of this page and compares what was drawn with how `reference` should
 * look. Rejects when the browser cannot read the file.
 */
export async function playInBrowser(file: Blob, type: string, due: { frames: readonly number[]; rate: Rate | null; plays: number }, reference: SourceSpec, backdrop: HexColour, pool: Pool, onProgress: (done: number) => void, signal: AbortSignal): Promise<BrowserPlay> {
  const ImageDecoder = (window as unknown as { ImageDecoder?: DecoderClass }).ImageDecoder
  if (!ImageDecoder) throw new Error('This browser does not let a page look into its picture decoder, so nothing can be read back.')
  const decoder = new ImageDecoder({ data: file.stream(), type })
  try {
    await decoder.tracks.ready
    await decoder.completed
    const track = decoder.tracks.selectedTrack
    if (!track) throw new Error('This browser finds no picture in the file.')
    let worst: PictureError | null = null
    let worstFrame = 1
    let microseconds = 0
    let canvas: OffscreenCanvas | null = null
    for (let i = 0; i < track.frameCount; i++) {
      signal.throwIfAborted()
      const { image } = await decoder.decode({ frameIndex: i, completeFramesOnly: true })
      microseconds += image.duration ?? 0
      canvas ??= new OffscreenCanvas(image.displayWidth, image.displayHeight)
      const context = canvas.getContext('2d', { willReadFrequently: true })!
      context.fillStyle = backdrop
      context.fillRect(0, 0, canvas.width, canvas.height)
      context.drawImage(image, 0, 0)
      image.close()
      const index = due.frames[i]
      if (index === undefined) continue
      const pixels = context.getImageData(0, 0, canvas.width, canvas.height).data
      const error = await pool.run('judgePicture', [pixels, reference, index, backdrop], { signal })
      if (!worst || error.codes > worst.codes) {
        worst = error
        worstFrame = i + 1
      }
      onProgress(i + 1)
    }
    const { repetitionCount, frameCount } = track
    const plays = repetitionCount === Infinity ? Infinity : repetitionCount + 1
    // durations come in whole microseconds, so the rate is compared within half of one a frame
    const measured = microseconds > 0 ? reduceRate([frameCount * 1_000_000, Math.round(microseconds)]) : null
    const exact = !due.rate || !measured || sameRate(measured, due.rate) || Math.abs(microseconds / frameCount - (due.rate[1] / due.rate[0]) * 1e6) <= 1
    // browsers keep a picture's time in whole milliseconds
    const timed = exact || Math.abs(microseconds / frameCount - (due.rate![1] / due.rate![0]) * 1e6) < 1000
    const seconds = `${Math.round(microseconds / 1e4) / 100} s`
    const rounded = exact ? '' : ` It keeps time in whole milliseconds, so the clip takes ${seconds} instead of ${Math.round(secondsOf(frameCount, due.rate!) * 100) / 100} s.`
    const counted = frameCount === due.frames.length
    const looped = plays === (due.plays === 0 ? Infinity : due.plays)
    const clean = worst !== null && worst.codes <= BLEND_SLACK
    const faults = [
      !counted && `It shows ${frameCount} frames instead of ${due.frames.length}.`,
      !timed && `It takes ${seconds}, ${measured ? formatRate(measured) : 'no'} frames per second instead of ${formatRate(due.rate!)}.`,
      !looped && `It plays ${plays === Infinity ? 'for ever' : `${plays} times`} instead of ${due.plays === 0 ? 'for ever' : `${due.plays} times`}.`,
      !clean && worst && `Colours are off by up to ${worst.codes} codes, in frame ${worstFrame}.`
    ].filter(Boolean)
    return {
      frames: frameCount,
      plays,
      rate: due.rate,
      worst: worst!,
      worstFrame,
      right: faults.length === 0,
      sentence: faults.length ? faults.join(' ') : `Right: ${frameCount} frames over ${backdrop}, ${worst!.codes === 0 ? 'not a code off' : `at most ${worst!.codes} ${worst!.codes === 1 ? 'code' : 'codes'} off by its own blending`}, ${plays === Infinity ? 'looping' : plays === 1 ? 'playing once' : `playing ${plays} times`}.${rounded}`
    }
  } finally {
    decoder.close()
  }
}
