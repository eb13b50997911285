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

/** Blending in 8 bits, premultiplied and back, costs a page up to this many codes; a film's colour is converted and enlarged besides. */
const BLEND_SLACK = 2
const FILM_SLACK = 24

/** A file as the browser itself plays it: how many frames, how often, how long, and any frame drawn. */
interface Playing {
  frames: number
  plays: number
  /** Length of the whole, in microseconds; 0 when it is not told. */
  microseconds: number
  width: number
  height: number
  draw(index: number, context: OffscreenCanvasRenderingContext2D): Promise<void>
  close(): void
}

async function openPicture(file: Blob, type: string): Promise<Playing> {
  const ImageDecoder = (window as unknown as { ImageDecoder?: DecoderClass }).ImageDecoder
  if (!ImageDecoder) throw new Error('This browser does not let a page look into its picture decoder, so nothing can be read back.')
  const decoder = new ImageDecoder({ data: file.stream(), type })
  await decoder.tracks.ready
  await decoder.completed
  const track = decoder.tracks.selectedTrack
  if (!track) throw new Error('This browser finds no picture in the file.')
  let microseconds = 0
  let size = { width: 1, height: 1 }
  for (let i = 0; i < track.frameCount; i++) {
    const { image } = await decoder.decode({ frameIndex: i, completeFramesOnly: true })
    microseconds += image.duration ?? 0
    size = { width: image.displayWidth, height: image.displayHeight }
    image.close()
  }
  return {
    frames: track.frameCount,
    plays: track.repetitionCount === Infinity ? Infinity : track.repetitionCount + 1,
    microseconds,
    ...size,
    async draw(index, context) {
      const { image } = await decoder.decode({ frameIndex: index, completeFramesOnly: true })
      context.drawImage(image, 0, 0)
      image.close()
    },
    close: () => decoder.close()
  }
}

/** Milliseconds after which a sought picture is taken to be there, should the browser never say so. */
const PRESENTED = 1500

/** A film in a real video element, sought to the middle of each frame. */
async function openFilm(file: Blob, rate: Rate): Promise<Playing> {
  const video = document.createElement('video')
  video.muted = true
  video.preload = 'auto'
  const address = URL.createObjectURL(file)
  const event = (name: string): Promise<void> =>
    new Promise((resolve, reject) => {
      video.addEventListener(name, () => resolve(), { once: true })
      video.addEventListener('error', () => reject(new Error(`This browser does not play the film (${video.error?.message || 'no reason given'}).`)), { once: true })
    })
  const ready = event('loadeddata')
  video.src = address
  await ready
  return {
    frames: Math.round((video.duration * rate[0]) / rate[1]),
    plays: 1,
    microseconds: video.duration * 1e6,
    width: video.videoWidth,
    height: video.videoHeight,
    async draw(index, context) {
      const sought = event('seeked')
      // "seeked" tells that the place was found; only the frame callback tells that its picture stands ready to be drawn
      const presented = new Promise<void>(resolve => video.requestVideoFrameCallback(() => resolve()))
      video.currentTime = ((index + 0.5) * rate[1]) / rate[0]
      await sought
      await Promise.race([presented, new Promise(resolve => setTimeout(resolve, PRESENTED))])
      context.drawImage(video, 0, 0)
    },
    close() {
      video.removeAttribute('src')
      video.load()
      URL.revokeObjectURL(address)
    }
  }
}

/**
 * Plays every frame over `backdrop` on a canvas of this page and compares what was drawn with how the delivered frames should look. Rejects when
 * the browser cannot read the file.
 */
export async function playInBrowser(file: Blob, type: string, due: { frames: number; rate: Rate | null; plays: number }, delivered: SourceSpec, backdrop: HexColour, pool: Pool, onProgress: (done: number) => void, signal: AbortSignal): Promise<BrowserPlay> {
  const film = type.startsWith('video/')
  const playing = film ? await openFilm(file, due.rate!) : await openPicture(file, type)
  try {
    const { frames, plays, microseconds } = playing
    let worst: PictureError | null = null
    let worstFrame = 1
    const canvas = new OffscreenCanvas(playing.width, playing.height)
    const context = canvas.getContext('2d', { willReadFrequently: true })!
    for (let i = 0; i < Math.min(frames, due.frames); i++) {
      signal.throwIfAborted()
      context.fillStyle = backdrop
      context.fillRect(0, 0, canvas.width, canvas.height)
      await playing.draw(i, context)
      const pixels = context.getImageData(0, 0, canvas.width, canvas.height).data
      const error = await pool.run('judgePicture', [pixels, delivered, i, backdrop], { signal })
      if (!worst || error.codes > worst.codes) {
        worst = error
        worstFrame = i + 1
      }
      onProgress(i + 1)
    }
    const measured = microseconds > 0 ? reduceRate([frames * 1_000_000, Math.round(microseconds)]) : null
    // durations come in whole microseconds, so the rate is compared within one a frame
    const off = due.rate && measured ? Math.abs(microseconds / frames - (due.rate[1] / due.rate[0]) * 1e6) : 0
    const exact = !due.rate || !measured || sameRate(measured, due.rate) || off <= 1
    // browsers keep a picture's time in whole milliseconds
    const timed = exact || off < 1000
    const seconds = `${Math.round(microseconds / 1e4) / 100} s`
    const rounded = exact || Math.abs(microseconds / 1e6 - secondsOf(frames, due.rate!)) < 0.005 ? '' : ` It keeps time in whole milliseconds, so the clip takes ${seconds} instead of ${Math.round(secondsOf(frames, due.rate!) * 100) / 100} s.`
    const counted = frames === due.frames
    const looped = film || plays === (due.plays === 0 ? Infinity : due.plays)
    const slack = film ? FILM_SLACK : BLEND_SLACK
    const clean = worst !== null && worst.codes <= slack
    const faults = [
      !counted && `It shows ${frames} frames instead of ${due.frames}.`,
      !timed && `It takes ${seconds}, ${measured ? formatRate(measured) : 'no'} frames per second instead of ${formatRate(due.rate!)}.`,
      !looped && `It plays ${plays === Infinity ? 'for ever' : `${plays} times`} instead of ${due.plays === 0 ? 'for ever' : `${due.plays} times`}.`,
      !clean && worst && `Colours are off by up to ${worst.codes} codes, in frame ${worstFrame}.`
    ].filter(Boolean)
    const loops = film ? '' : `, ${plays === Infinity ? 'looping' : plays === 1 ? 'playing once' : `playing ${plays} times`}`
    return {
      frames,
      plays,
      rate: due.rate,
      worst: worst!,
      worstFrame,
      right: faults.length === 0,
      sentence: faults.length ? faults.join(' ') : `Right: ${frames} frames over ${backdrop}, ${worst!.codes === 0 ? 'not a code off' : `at most ${worst!.codes} ${worst!.codes === 1 ? 'code' : 'codes'} off by its own ${film ? 'colour conversion and ' : ''}blending`}${loops}.${rounded}`
    }
  } finally {
    playing.close()
  }
}
