/** Playing: the clock decides which frame is due; frames that are not ready in time are skipped and counted. */
import { onBeforeUnmount, ref, type Ref } from 'vue'
import { framesPerSecond, type Rate } from '~~/core/base/rate'

/** Frames asked for ahead of the one that is due. */
const AHEAD = 10
/**
 * Frames that lie ready before the clock starts, so that the first ones are not skipped; and how many milliseconds it
 * waits for them at most.
 */
const LEAD = 5
const PATIENCE = 700

export interface Played {
  frames(): number
  /** Frames to play in place of all, over and over. */
  order?(): readonly number[] | null
  rate(): Rate | null
  /** Whether a frame could be drawn at once. */
  ready(index: number): boolean
  /** Asks for a frame; nobody waits for it. */
  fetch(index: number): void
}

export interface Playback {
  playing: Ref<boolean>
  looping: Ref<boolean>
  skipped: Ref<number>
  play(): void
  step(by: number): void
}

/** Moves `index` at the clip's rate, or by hand. */
export function usePlayback(index: Ref<number>, clip: Played): Playback {
  const playing = ref(false)
  const looping = ref(true)
  const skipped = ref(0)
  // `shown` is the place in the order that is on the screen; `began` is when the clock started, null until it does
  let [raf, asked, beganAt, shown] = [0, 0, 0, 0]
  let began: number | null = null

  function tick(now: number): void {
    const [rate, frames] = [clip.rate(), clip.frames()]
    if (!playing.value || !rate) return
    const order = clip.order?.() ?? null
    const count = order?.length ?? frames
    const at = (n: number): number => order?.[n % count] ?? n % count
    if (began === null) {
      let lead = true
      for (let ahead = 0; ahead < AHEAD; ahead++) clip.fetch(at(beganAt + ahead))
      for (let ahead = 0; ahead < Math.min(LEAD, count); ahead++) lead = lead && clip.ready(at(beganAt + ahead))
      if (lead || now - asked > PATIENCE) began = now
      raf = requestAnimationFrame(tick)
      return
    }
    // a tick may carry a time from before the start
    const place = beganAt + Math.max(0, Math.floor(((now - began) / 1000) * framesPerSecond(rate)))
    if (!looping.value && !order && place >= frames) {
      playing.value = false
      index.value = frames - 1
      return
    }
    if (at(place) !== index.value) {
      if (clip.ready(at(place))) {
        skipped.value += Math.max(0, place - shown - 1)
        index.value = at(place)
        shown = place
      }
      for (let ahead = 0; ahead < AHEAD; ahead++) clip.fetch(at(place + ahead))
    }
    raf = requestAnimationFrame(tick)
  }

  onBeforeUnmount(() => cancelAnimationFrame(raf))
  return {
    playing,
    looping,
    skipped,
    play() {
      if (!clip.rate() || clip.frames() < 2) return
      playing.value = !playing.value
      if (!playing.value) return
      skipped.value = 0
      began = null
      asked = performance.now()
      const order = clip.order?.() ?? null
      beganAt = order ? Math.max(0, order.indexOf(index.value)) : index.value >= clip.frames() - 1 ? 0 : index.value
      shown = beganAt
      raf = requestAnimationFrame(tick)
    },
    step(by) {
      playing.value = false
      index.value = Math.max(0, Math.min(clip.frames() - 1, index.value + by))
    }
  }
}
