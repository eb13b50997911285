/** Films and still pictures through the browser's own decoders (W3C WebCodecs). */
import { VideoSampleSink, type VideoSample } from 'mediabunny'
import type { FilmDecoders, PictureDecoder } from '../../core/frame/host'

async function rgbaOf(frame: VideoFrame): Promise<{ width: number; height: number; rgba: Uint8Array }> {
  const { width, height } = frame.visibleRect ?? { width: frame.codedWidth, height: frame.codedHeight }
  if (frame.format === 'RGBA' || frame.format === 'BGRA') {
    // as it is stored: a conversion would premultiply, and lose colour where alpha is low
    const rgba = new Uint8Array(frame.allocationSize())
    await frame.copyTo(rgba)
    if (frame.format === 'BGRA')
      for (let i = 0; i < rgba.length; i += 4) [rgba[i], rgba[i + 2]] = [rgba[i + 2]!, rgba[i]!]
    return { width, height, rgba }
  }
  const options: VideoFrameCopyToOptions & { format: 'RGBA'; colorSpace: 'srgb' } = {
    format: 'RGBA',
    colorSpace: 'srgb'
  }
  const rgba = new Uint8Array(frame.allocationSize(options))
  await frame.copyTo(rgba, options)
  return { width, height, rgba }
}

/** Seconds by which a frame's time may differ from the one asked for. */
const SLACK = 1e-4

export const browserFilms: FilmDecoders = {
  async open(track) {
    if (!(await track.canDecode())) throw new Error('there is no decoder for it')
    const sink = new VideoSampleSink(track)
    let run: AsyncGenerator<VideoSample, void, unknown> | null = null
    let shown = -Infinity
    const stop = async (): Promise<void> => {
      await run?.return()
      run = null
    }
    /** The next frame of the run, if it is the one that begins at `time`. */
    async function step(time: number): Promise<VideoSample | null> {
      const { value } = await run!.next()
      if (!value) return null
      shown = value.timestamp
      if (Math.abs(value.timestamp - time) <= SLACK) return value
      value.close()
      return null
    }
    return {
      async at(time) {
        // the run goes on where it is; anything else begins a run of its own at that frame
        let sample = run && time > shown && time - shown < 1 ? await step(time) : null
        if (!sample) {
          await stop()
          run = sink.samples(time)
          sample = await step(time)
        }
        if (!sample) throw new Error('the decoder gave no picture for it')
        const frame = sample.toVideoFrame()
        try {
          return (await rgbaOf(frame)).rgba
        } finally {
          frame.close()
          sample.close()
        }
      },
      close: stop
    }
  }
}

export const browserPictures: PictureDecoder = {
  async decode(file, mime) {
    const decoder = new ImageDecoder({
      data: file as Uint8Array<ArrayBuffer>,
      type: mime,
      premultiplyAlpha: 'none',
      colorSpaceConversion: 'none'
    })
    try {
      const { image } = await decoder.decode()
      try {
        return await rgbaOf(image)
      } finally {
        image.close()
      }
    } finally {
      decoder.close()
    }
  }
}
