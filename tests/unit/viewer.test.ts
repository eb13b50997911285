/** What the viewer keeps and when it plays, without a page: clock, pictures and frames are the test's own. */
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest'
import { ref } from 'vue'
import { FrameCache } from '../../app/components/viewer/frame-cache'
import { usePlayback, type Playback } from '../../app/components/viewer/playback'

describe('playing', () => {
  let next: ((now: number) => void) | null = null
  let now = 0
  beforeEach(() => {
    now = 1000
    vi.stubGlobal('requestAnimationFrame', (run: (now: number) => void) => ((next = run), 1))
    vi.stubGlobal('cancelAnimationFrame', () => (next = null))
    vi.spyOn(performance, 'now').mockImplementation(() => now)
    // there is no component that could end
    vi.spyOn(console, 'warn').mockImplementation(() => undefined)
  })
  afterEach(() => {
    vi.unstubAllGlobals()
    vi.restoreAllMocks()
  })

  const tick = (at: number): void => {
    now = at
    const run = next
    next = null
    run?.(at)
  }

  function player(
    frames: number,
    more: { order?: number[] } = {}
  ): { playback: Playback; index: { value: number }; ready: Set<number>; asked: Set<number> } {
    const index = ref(0)
    const [ready, asked] = [new Set<number>(), new Set<number>()]
    const playback = usePlayback(index, {
      frames: () => frames,
      order: () => more.order ?? null,
      rate: () => [10, 1],
      ready: i => ready.has(i),
      fetch: i => void asked.add(i)
    })
    return { playback, index, ready, asked }
  }

  test('the clock starts once the first frames lie ready, and then keeps the rate', () => {
    const { playback, index, ready, asked } = player(30)
    playback.play()
    tick(1010)
    expect([...asked]).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9])
    tick(1300)
    expect(index.value).toBe(0)
    for (let i = 0; i < 30; i++) ready.add(i)
    tick(1400)
    for (const [at, frame] of [
      [1450, 0],
      [1501, 1],
      [1601, 2],
      [1999, 5]
    ] as const) {
      tick(at)
      expect(index.value).toBe(frame)
    }
    // from 1999 the fifth frame was due: those between had no tick of their own
    expect(playback.skipped.value).toBe(2)
  })

  test('it waits for them no longer than patience lasts; what comes too late is skipped and counted', () => {
    const { playback, index, ready } = player(30)
    playback.play()
    tick(1100)
    tick(1800)
    ready.add(1)
    tick(1901)
    expect(index.value).toBe(1)
    tick(2001)
    tick(2101)
    expect(index.value).toBe(1)
    ready.add(4)
    tick(2201)
    expect(index.value).toBe(4)
    expect(playback.skipped.value).toBe(2)
  })

  test('without a loop it ends with the last frame; with one it goes round; a clip shorter than the lead plays too', () => {
    for (const looping of [false, true]) {
      const { playback, index, ready } = player(3)
      playback.looping.value = looping
      for (let i = 0; i < 3; i++) ready.add(i)
      playback.play()
      tick(1010)
      for (const at of [1111, 1211, 1311]) tick(at)
      expect([playback.playing.value, index.value]).toEqual(looping ? [true, 0] : [false, 2])
      if (looping) playback.play()
      expect(playback.playing.value).toBe(false)
    }
  })

  test('a seam is played in the order given, from where the viewer stands', () => {
    const { playback, index, ready } = player(30, { order: [28, 29, 0, 1] })
    for (const i of [28, 29, 0, 1]) ready.add(i)
    index.value = 29
    playback.play()
    tick(1010)
    const shown: number[] = []
    for (let at = 1111; at < 1600; at += 100) {
      tick(at)
      shown.push(index.value)
    }
    expect(shown).toEqual([0, 1, 28, 29, 0])
    playback.step(-1)
    expect([playback.playing.value, index.value]).toEqual([false, 0])
  })

  test('a still, and a clip without a rate, do not play', () => {
    const { playback } = player(1)
    playback.play()
    expect(playback.playing.value).toBe(false)
    const unrated = usePlayback(ref(0), {
      frames: () => 10,
      rate: () => null,
      ready: () => true,
      fetch: () => undefined
    })
    unrated.play()
    expect(unrated.playing.value).toBe(false)
  })
})

describe('pictures kept ready', () => {
  const closed: number[] = []
  beforeEach(() => {
    closed.length = 0
    vi.stubGlobal(
      'ImageData',
      class {
        constructor(
          readonly data: Uint8ClampedArray,
          readonly width: number,
          readonly height: number
        ) {}
      }
    )
    vi.stubGlobal(
      'createImageBitmap',
      ({ data, width, height }: { data: Uint8ClampedArray; width: number; height: number }) =>
        Promise.resolve({ width, height, close: () => closed.push(data[0]!) })
    )
  })
  afterEach(() => vi.unstubAllGlobals())

  // 8192 x 2048 pixels are 64 MiB as they are kept; their bytes need not exist for that
  const picture = (n: number) => () => Promise.resolve({ width: 8192, height: 2048, pixels: Uint8ClampedArray.of(n) })

  test('are made once for all who ask, and the least recently used go when the budget is full', async () => {
    const cache = new FrameCache()
    let made = 0
    const once = (): ReturnType<ReturnType<typeof picture>> => (made++, picture(0)())
    const [a, b] = await Promise.all([cache.load('0', once), cache.load('0', once)])
    expect(a).toBe(b)
    expect(made).toBe(1)
    for (const n of [1, 2, 3]) await cache.load(String(n), picture(n))
    expect(closed).toEqual([])
    // looked at again, the first is no longer the least recently used
    expect(cache.get('0')).toBe(a)
    await cache.load('4', picture(4))
    expect(closed).toEqual([1])
    expect([0, 1, 2, 3, 4].map(n => cache.get(String(n)) !== null)).toEqual([true, false, true, true, true])
  })

  test('are let go of when cleared, those on their way as well; a fault is passed on and may be tried again', async () => {
    const cache = new FrameCache()
    await cache.load('0', picture(0))
    let signal: AbortSignal | null = null
    const coming = cache.load('1', given => {
      signal = given
      return new Promise(resolve =>
        setTimeout(() => resolve({ width: 1, height: 1, pixels: Uint8ClampedArray.of(1) }), 5)
      )
    })
    cache.clear()
    expect(signal!.aborted).toBe(true)
    expect(await coming).toBeNull()
    expect(closed).toEqual([0, 1])
    expect(cache.get('1')).toBeNull()
    await expect(cache.load('2', () => Promise.reject(new Error('damaged')))).rejects.toThrow('damaged')
    expect(await cache.load('2', picture(2))).not.toBeNull()
    expect(await cache.load('3', () => Promise.reject(new DOMException('stopped', 'AbortError')))).toBeNull()
  })
})
