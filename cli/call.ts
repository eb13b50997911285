/** What every command works with: the host, the pool, and where to print. */
import { wrongCall } from '../core/base/errors'
import type { Host } from '../core/frame/host'
import type { Pool } from '../core/base/pool'
import type { Tasks } from '../core/tasks/tasks'
import type { Receiver } from '../core/job/outlet/receiver'
import { AlphaMode } from '../core/frame/frame'
import type { Progress } from './progress'

export interface Call {
  host: Host
  pool: Pool<Tasks>
  json: boolean
  /** What the receiver of what is poured demands, and what of it was waived by name. */
  receiver?: { demands: Receiver; waived: readonly string[] } | null
  /** Milliseconds that one file may take to be opened, where the caller said so. */
  deadline?: number | undefined
  /** Aborted when the caller stops the command. */
  signal: AbortSignal
  /** Data for the caller, on standard output. */
  print(text: string): void
  /** Remarks for a person, on standard error. */
  remark(text: string): void
  /** How far it is, for a person at a terminal. */
  progress: Progress
}

/** Options of every command. */
export const EVERYWHERE: readonly string[] = ['json', 'help', 'quiet', 'deadline', 'memory']

export type Options = Readonly<Record<string, string | boolean | string[] | undefined>>

/** "straight", "none", "premultiplied", or "premultiplied:#rrggbb". */
export function parseAlpha(text: string, option: string, matte?: string): AlphaMode {
  const [mode, colour] = text.split(':')
  if (matte !== undefined && !/^#[0-9a-f]{6}$/i.test(matte)) throw wrongCall(`--matte takes #rrggbb, not "${matte}"`)
  if (matte !== undefined && mode !== 'premultiplied') throw wrongCall(`--matte goes with --${option} premultiplied`)
  const parsed = AlphaMode.safeParse(
    mode === 'premultiplied' ? { mode, matte: (matte ?? colour ?? '#000000').toLowerCase() } : { mode }
  )
  if (!parsed.success)
    throw wrongCall(`--${option} takes straight, premultiplied, premultiplied:#rrggbb or none, not "${text}"`)
  return parsed.data
}

/** The one value of an option given as text, or undefined. */
export function text(options: Options, name: string): string | undefined {
  const value = options[name]
  return typeof value === 'string' ? value : undefined
}

export function needed(options: Options, name: string): string {
  const value = text(options, name)
  if (value === undefined) throw wrongCall(`--${name} is needed`)
  if (value === '') throw wrongCall(`--${name} is empty`)
  return value
}
