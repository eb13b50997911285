/** Who may ask. Plain functions, so that they can be tested without a server. */
import { timingSafeEqual } from 'node:crypto'

export interface Asked {
  host: string | undefined
  origin: string | undefined
  /** "Bearer …" of a program, or the page's cookie, or the address that was given out. */
  tokens: readonly (string | undefined)[]
}

const LOOPBACK = /^(localhost|127\.\d+\.\d+\.\d+|\[::1\]|[\w-]+\.localhost)(:\d+)?$/i

/** Whether a server that listens here can be reached by this machine alone. */
export function isLoopback(listens: string | undefined): boolean {
  return listens !== undefined && LOOPBACK.test(listens === '::1' ? '[::1]' : listens)
}

/** Wrong tokens of one address that are answered at once, and those after which it has to wait. */
const FREE = 3
const MOST = 20
/** Milliseconds after which wrong tokens are forgotten, and the longest that one is made to wait. */
const FORGOTTEN = 10 * 60_000
const LONGEST = 8000

/** Makes guessing slow: each wrong token of an address takes longer to be answered than the one before. */
export class Guesses {
  private readonly wrong = new Map<string, { count: number; last: number }>()

  constructor(private readonly now: () => number = Date.now) {}

  /**
   * Notes a wrong token. The milliseconds until it is to be answered, or null where the address has guessed so often
   * that it is turned away at once.
   */
  guess(address: string): number | null {
    for (const [other, { last }] of this.wrong) if (this.now() - last > FORGOTTEN) this.wrong.delete(other)
    const count = (this.wrong.get(address)?.count ?? 0) + 1
    this.wrong.set(address, { count, last: this.now() })
    if (count > MOST) return null
    return count <= FREE ? 0 : Math.min(LONGEST, 250 * 2 ** (count - FREE - 1))
  }
}

function same(given: string | undefined, token: string): boolean {
  const [a, b] = [Buffer.from(given ?? ''), Buffer.from(token)]
  return a.length === b.length && timingSafeEqual(a, b)
}

/**
 * Why a request is refused, or null. A server for this machine alone answers to this machine's names only, so that no
 * page elsewhere can lead a browser to it under a name of its own; one for others asks for its token. No page of
 * another origin may ask anything.
 */
export function refusalOf(
  { host, origin, tokens }: Asked,
  listens: string | undefined,
  token: string | undefined
): { status: 401 | 403; matter: string } | null {
  if (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`)
    return { status: 403, matter: `Pages of ${origin} may not ask this server.` }
  if (isLoopback(listens)) {
    if (!LOOPBACK.test(host ?? ''))
      return { status: 403, matter: `This server does not answer to the name ${host ?? ''}.` }
    return null
  }
  if (!token) return { status: 401, matter: 'This server was started for others without a token, and answers nobody.' }
  return tokens.some(given => same(given, token)) ? null : { status: 401, matter: 'The token is missing or wrong.' }
}
