/**
 * What runs inside the closed-off page: it plays one real file over a colour, and hands back what it drew. It is
 * written into that page as text, so it may use nothing but what stands within it.
 */

export function player(
  halvesDrawer: (canvas: HTMLCanvasElement, how: object) => (video: HTMLVideoElement) => void
): void {
  /** Of a film that is two halves: how it is put together, and the size that it comes to. */
  type Halves = { width: number; height: number }
  interface Track {
    frameCount: number
    repetitionCount: number
  }
  /** The part of ImageDecoder (W3C WebCodecs) that is used; TypeScript's own library lacks it. */
  interface Decoder {
    tracks: { ready: Promise<void>; selectedTrack: Track | null }
    completed: Promise<void>
    decode(options: { frameIndex: number; completeFramesOnly: boolean }): Promise<{ image: VideoFrame }>
  }
  type DecoderClass = new (init: { data: ReadableStream; type: string }) => Decoder
  interface Opened {
    frames: number
    plays: number
    microseconds: number
    width: number
    height: number
    draw(index: number, context: OffscreenCanvasRenderingContext2D): Promise<void>
  }

  /** Milliseconds after which a sought picture is taken to be there, should the browser never say so. */
  const PRESENTED = 1500

  async function openPicture(file: Blob, type: string): Promise<Opened> {
    const ImageDecoder = (globalThis as unknown as { ImageDecoder?: DecoderClass }).ImageDecoder
    if (!ImageDecoder)
      throw new Error('This browser does not let a page look into its picture decoder, so nothing can be read back.')
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
      }
    }
  }

  /** A film in a real video element, sought to the middle of each frame. */
  async function openFilm(address: string, rate: readonly [number, number], halves: Halves | null): Promise<Opened> {
    const video = document.createElement('video')
    video.muted = true
    video.preload = 'auto'
    const event = (name: string): Promise<void> =>
      new Promise((resolve, reject) => {
        video.addEventListener(name, () => resolve(), { once: true })
        video.addEventListener(
          'error',
          () =>
            reject(new Error(`This browser does not play the film (${video.error?.message || 'no reason given'}).`)),
          { once: true }
        )
      })
    const ready = event('loadeddata')
    video.src = address
    await ready
    const canvas = document.createElement('canvas')
    const together = halves && halvesDrawer(canvas, halves)
    return {
      frames: Math.round((video.duration * rate[0]) / rate[1]),
      plays: 1,
      microseconds: video.duration * 1e6,
      width: halves?.width ?? video.videoWidth,
      height: halves?.height ?? video.videoHeight,
      async draw(index, context) {
        const sought = event('seeked')
        // "seeked" tells that the place was found; only the frame callback tells that its picture stands ready to be
        // drawn
        const frameTime = rate[1] / rate[0]
        const due = (index + 0.5) * frameTime
        const presented = new Promise<void>(resolve => {
          // a picture asked for earlier may still be on its way: only the one due ends the wait
          const wait = (): number =>
            video.requestVideoFrameCallback((_, { mediaTime }) =>
              Math.abs(mediaTime - due) < frameTime ? resolve() : wait()
            )
          wait()
        })
        video.currentTime = due
        await sought
        await Promise.race([presented, new Promise(resolve => setTimeout(resolve, PRESENTED))])
        together?.(video)
        context.drawImage(together ? canvas : video, 0, 0)
      }
    }
  }

  /** The file as any page would show it, playing by itself. */
  function show(address: string, type: string, halves: Halves | null): void {
    const film = type.startsWith('video/')
    const element = document.createElement(film ? 'video' : 'img')
    if (element instanceof HTMLVideoElement)
      Object.assign(element, { autoplay: true, loop: true, muted: true, playsInline: true })
    element.src = address
    if (!halves || !(element instanceof HTMLVideoElement)) return document.body.replaceChildren(element)
    const canvas = document.createElement('canvas')
    const together = halvesDrawer(canvas, halves)
    const next = (): void =>
      void element.requestVideoFrameCallback(() => {
        together(element)
        next()
      })
    next()
    element.style.cssText = 'position:absolute;width:1px;height:1px;opacity:0'
    document.body.replaceChildren(canvas, element)
  }

  let opened: Opened | null = null
  let context: OffscreenCanvasRenderingContext2D | null = null

  async function answer(ask: {
    show?: { bytes: ArrayBuffer; type: string; halves: Halves | null }
    open?: { bytes: ArrayBuffer; type: string; rate: [number, number] | null; halves: Halves | null }
    draw?: number
    backdrop?: string
  }): Promise<unknown> {
    if (ask.show) {
      const { bytes, type, halves } = ask.show
      show(URL.createObjectURL(new Blob([bytes], { type })), type, halves)
      return null
    }
    if (ask.open) {
      const file = new Blob([ask.open.bytes], { type: ask.open.type })
      const address = URL.createObjectURL(file)
      opened = ask.open.type.startsWith('video/')
        ? await openFilm(address, ask.open.rate ?? [25, 1], ask.open.halves)
        : await openPicture(file, ask.open.type)
      context = new OffscreenCanvas(opened.width, opened.height).getContext('2d', { willReadFrequently: true })
      const { frames, plays, microseconds, width, height } = opened
      return { frames, plays, microseconds, width, height }
    }
    if (ask.draw !== undefined && opened && context) {
      context.fillStyle = ask.backdrop ?? '#000000'
      context.fillRect(0, 0, opened.width, opened.height)
      await opened.draw(ask.draw, context)
      return context.getImageData(0, 0, opened.width, opened.height).data
    }
    if (ask.backdrop) document.body.style.background = ask.backdrop
    return null
  }

  addEventListener('message', (event: MessageEvent) => {
    const [port] = event.ports
    if (event.source !== parent || !port) return
    let last: Promise<unknown> = Promise.resolve()
    port.onmessage = ({ data }: MessageEvent<{ id: number; ask: Parameters<typeof answer>[0] }>) => {
      last = last
        .then(() => answer(data.ask))
        .then(
          result =>
            port.postMessage({ id: data.id, result }, ArrayBuffer.isView(result) ? [result.buffer as ArrayBuffer] : []),
          (error: unknown) =>
            port.postMessage({ id: data.id, failure: error instanceof Error ? error.message : String(error) })
        )
    }
  })
}
