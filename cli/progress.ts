/**
 * How far a command is, on a terminal: the stage, frames, frames a second, and the time left. Nothing where standard
 * error is no terminal, so that pipelines read remarks alone.
 */
import { Format, Presets, SingleBar } from 'cli-progress'

/** Told how far a stage is; the line goes when `null` is. */
export type Progress = (stage: string | null, done?: number, total?: number) => void

/** Time left is told once so much is known of how fast it goes, in seconds. */
const SURE = 1

export function progressOn(stream: NodeJS.WriteStream, quiet: boolean): Progress {
  if (quiet || !stream.isTTY) return () => undefined
  let bar: SingleBar | null = null
  let at = { stage: '', total: 0, done: 0, since: 0, from: 0 }
  const end = (): void => {
    bar?.stop()
    bar = null
  }
  return (stage, done = 0, total = 0) => {
    if (stage === null || total === 0) return end()
    // the next stage, or the same of the next clip
    if (!bar || at.stage !== stage || at.total !== total || done < at.done) {
      end()
      at = { stage, total, done, since: performance.now(), from: done }
      bar = new SingleBar({ stream, clearOnComplete: true, hideCursor: null, format: line }, Presets.shades_grey)
      bar.start(total, done, { stage, speed: '', left: '' })
    }
    at.done = done
    const seconds = (performance.now() - at.since) / 1000
    const speed = (done - at.from) / seconds
    const known = seconds > SURE && speed > 0
    bar.update(done, {
      stage,
      speed: known ? `, ${speed < 10 ? speed.toFixed(1) : Math.round(speed)} frames/s` : '',
      left: known && done < total ? `, ${sayLeft((total - done) / speed)} left` : ''
    })
  }
}

const line: NonNullable<ConstructorParameters<typeof SingleBar>[0]['format']> = (options, params, payload) => {
  const { stage, speed, left } = payload as Record<'stage' | 'speed' | 'left', string>
  const bar = Format.BarFormat(params.progress, options)
  return `${stage} ${bar} ${params.value} of ${params.total} frames${speed}${left}`
}

/** Seconds as people say them. */
export function sayLeft(seconds: number): string {
  const whole = Math.max(1, Math.round(seconds))
  if (whole < 60) return `${whole} s`
  if (whole < 3600) return `${Math.floor(whole / 60)} min ${whole % 60} s`
  return `${Math.floor(whole / 3600)} h ${Math.floor((whole % 3600) / 60)} min`
}
