/**
 * Large parts of a task's arguments, a source's list of files or a deliverable's list of names, are sent to a thread
 * once and then named by number: copied with every frame, they made the work of a sequence grow with the square of its
 * length.
 */

/** Stands in an argument for what was sent before. */
interface Stowed {
  stowed: number
}

export interface Packed {
  args: unknown[]
  /** What the thread does not have yet. */
  fresh: readonly (readonly [number, object])[]
  /** What it will not be asked for again. */
  drop: readonly number[]
}

/** Lists shorter than this are copied as they are. */
const LEAST = 16
/** Arguments hold what is stowed no deeper than this: a request, its source, what that is prepared with. */
const DEPTH = 3
/** Kept by a thread at once. */
const MOST = 32

const numbers = new WeakMap<object, number>()
let next = 1

function numberOf(value: object): number {
  const known = numbers.get(value)
  if (known !== undefined) return known
  numbers.set(value, next)
  return next++
}

const LISTS = ['files', 'names', 'numbers', 'frames'] as const

const isPlain = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && Object.getPrototypeOf(value) === Object.prototype

const isLarge = (value: Record<string, unknown>): boolean =>
  LISTS.some(key => Array.isArray(value[key]) && (value[key] as unknown[]).length >= LEAST)

/** The sender's half, one for each thread: it knows what the thread has. */
export class Stow {
  private readonly known = new Set<number>()

  pack(args: readonly unknown[]): Packed {
    const fresh: [number, object][] = []
    const used = new Set<number>()
    const walk = (value: unknown, depth: number): unknown => {
      if (!isPlain(value) || depth > DEPTH) return value
      if (isLarge(value)) {
        const number = numberOf(value)
        used.add(number)
        if (this.known.delete(number)) this.known.add(number)
        else {
          this.known.add(number)
          fresh.push([number, value])
        }
        return { stowed: number } satisfies Stowed
      }
      let changed: Record<string, unknown> | null = null
      for (const [key, part] of Object.entries(value)) {
        const packed = walk(part, depth + 1)
        if (packed === part) continue
        changed ??= { ...value }
        changed[key] = packed
      }
      return changed ?? value
    }
    const packed = args.map(arg => walk(arg, 1))
    const drop: number[] = []
    for (const number of this.known) {
      if (this.known.size <= MOST) break
      if (used.has(number)) continue
      this.known.delete(number)
      drop.push(number)
    }
    return { args: packed, fresh, drop }
  }
}

/** The thread's half. */
export class Unstow {
  private readonly held = new Map<number, object>()

  unpack({ args, fresh, drop }: Packed): unknown[] {
    for (const [number, value] of fresh) this.held.set(number, value)
    const walk = (value: unknown, depth: number): unknown => {
      if (!isPlain(value) || depth > DEPTH) return value
      if (typeof value.stowed === 'number' && Object.keys(value).length === 1) return this.held.get(value.stowed)
      for (const [key, part] of Object.entries(value)) value[key] = walk(part, depth + 1)
      return value
    }
    const unpacked = args.map(arg => walk(arg, 1))
    for (const number of drop) this.held.delete(number)
    return unpacked
  }
}
