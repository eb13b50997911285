/**
 * The errors the core speaks. Each ends in one sentence a technician can act on; nothing else is thrown on purpose.
 * `AbortError` (the platform's own) stands for cancelled work and is passed through untouched.
 */

export type ErrorKind = 'unreadable' | 'impossible' | 'wrong-call' | 'no-room' | 'unreachable'

/** What crosses a thread border in place of the error itself. */
export interface PlainError {
  kind: ErrorKind
  file: string | null
  place: string | null
  matter: string
}

/**
 * An error with its file, the place in it and the matter kept apart, so that interface and command line can set them as
 * they like.
 */
export class PourError extends Error {
  readonly kind: ErrorKind
  readonly file: string | null
  readonly place: string | null
  readonly matter: string

  constructor(plain: PlainError) {
    super([plain.file, plain.place].filter(Boolean).join(', ') + (plain.file || plain.place ? ': ' : '') + plain.matter)
    this.name = 'PourError'
    this.kind = plain.kind
    this.file = plain.file
    this.place = plain.place
    this.matter = plain.matter
  }

  toPlain(): PlainError {
    return { kind: this.kind, file: this.file, place: this.place, matter: this.matter }
  }
}

/** The bytes of `file` break their own format at `place` ("byte 33", "frame 4", "chunk IDAT"). */
export function unreadable(file: string, place: string | null, matter: string): PourError {
  return new PourError({ kind: 'unreadable', file, place, matter })
}

/** What was asked cannot be done with this format, source or machine; `matter` says why and what to do instead. */
export function impossible(matter: string, file: string | null = null): PourError {
  return new PourError({ kind: 'impossible', file, place: null, matter })
}

/** The caller named something that does not exist or contradicts itself. */
export function wrongCall(matter: string): PourError {
  return new PourError({ kind: 'wrong-call', file: null, place: null, matter })
}

/** Storage or memory ran out; `matter` carries the figures. */
export function noRoom(matter: string): PourError {
  return new PourError({ kind: 'no-room', file: null, place: null, matter })
}

/**
 * Code, a file or a store could not be got at: nothing is known of what was to be judged, and it can be tried again.
 * Never a verdict about a file.
 */
export function unreachable(matter: string, file: string | null = null): PourError {
  return new PourError({ kind: 'unreachable', file, place: null, matter })
}

/**
 * The error for what a decoder refused, by `say`, which is given the reason. What is none of the file's doing, an abort
 * or an error that speaks for itself, is passed on as it is.
 */
export function damagedBy(error: unknown, say: (why: string) => PourError): unknown {
  if (error instanceof PourError || isAbort(error)) return error
  return say(inWords(error))
}

/** What a library says when it trips over a file: words about its own code, which nobody can do anything with. */
const OF_CODE =
  /\bundefined\b|\bnull\b|is not (a function|defined|iterable|an object)|reading '|RuntimeError|unreachable|out of bounds|Aborted\(|ASSERTIONS|call stack/i

/** Why a library refused a file, in words about the file. */
export function inWords(error: unknown): string {
  const why = sentenceOf(error).trim()
  if (/^assertion failed\.?$/i.test(why)) return 'its parts contradict each other'
  const tripped = error instanceof TypeError || error instanceof ReferenceError || OF_CODE.test(why)
  return tripped || why === '' ? 'it is damaged' : why
}

/** True for the platform's own cancellation error. */
export function isAbort(error: unknown): boolean {
  return typeof error === 'object' && error !== null && (error as { name?: unknown }).name === 'AbortError'
}

/** The sentence to show for anything that was thrown. */
export function sentenceOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
