/** Vector animations as sources: drawn in floating point when a frame is asked for, over nothing. */
import { damagedBy, impossible, unreadable } from '../errors'
import { readAll, type ByteReader, type FileRef } from '../files/file'
import type { OpenedPictures, PictureKind } from '../formats/format'
import { STRAIGHT, type Frame } from '../frame/frame'
import type { Host } from '../host'
import type { Finding } from '../source/source'
import { inTurn } from '../source/turns'
import { looksLikeAnimation, MOST_BYTES, readAnimation, type VectorAnimation } from './animation'

async function textOf(reader: ByteReader): Promise<string> {
  if (reader.size > MOST_BYTES)
    throw unreadable(reader.name, null, `a vector animation of ${reader.size} bytes is longer than can be taken`)
  return new TextDecoder().decode(await readAll(reader))
}

function findingsOf({ markers, leftOut }: VectorAnimation): Finding[] {
  const findings: Finding[] = []
  if (leftOut.length)
    findings.push({
      id: 'features-left-out',
      severity: 'warning',
      frames: [],
      sentence: `Left out of what is drawn: ${leftOut.slice(0, 6).join('; ')}${leftOut.length > 6 ? `; and ${leftOut.length - 6} more` : ''}.`
    })
  if (markers.length)
    findings.push({
      id: 'markers',
      severity: 'note',
      frames: markers.map(({ from }) => from),
      sentence: `It marks ${markers
        .slice(0, 8)
        .map(({ name, from, to }) => `“${name}” ${from} to ${to}`)
        .join(', ')}${markers.length > 8 ? ` and ${markers.length - 8} more` : ''}.`
    })
  return findings
}

/** Premultiplied floats as straight codes of 16 bits; what would round to no alpha holds no colour either. */
function straight16(pixels: Float32Array, width: number, height: number): Frame {
  const samples = new Uint16Array(4 * width * height)
  for (let i = 0; i < samples.length; i += 4) {
    const alpha = pixels[i + 3]!
    const code = Math.min(65535, Math.round(alpha * 65535))
    if (!(code > 0)) continue
    samples[i + 3] = code
    for (let c = 0; c < 3; c++)
      samples[i + c] = Math.min(65535, Math.max(0, Math.round((pixels[i + c]! / alpha) * 65535)))
  }
  return { width, height, depth: 16, samples, alpha: STRAIGHT, transfer: 'srgb' }
}

async function open(name: string, [file]: readonly FileRef[], host: Host): Promise<OpenedPictures> {
  const reader = await host.openFile(file!)
  const text = await textOf(reader).finally(() => reader.close())
  const animation = readAnimation(text, reader.name)
  const { width, height, frames, rate, first } = animation
  if (!host.vectors) throw impossible('vector animations cannot be drawn by this machine', reader.name)
  const player = await host.vectors.open(text, { width, height }).catch((error: unknown) => {
    throw damagedBy(error, why => unreadable(reader.name, null, `it cannot be played (${why})`))
  })
  const turns = inTurn(reader.name, frames, index =>
    Promise.resolve(straight16(player.frame(first + index), width, height))
  )
  return {
    facts: {
      name,
      kind: 'vector animation',
      width,
      height,
      frames,
      rate,
      rateFrom: 'file',
      bitDepth: 16,
      claim: { mode: 'straight', matte: null, says: 'drawn here, with straight alpha' },
      colour: 'sRGB',
      pixelAspect: [1, 1],
      plays: null,
      bytes: file!.size,
      findings: findingsOf(animation)
    },
    ...turns,
    async close() {
      await turns.settled()
      player.close()
    }
  }
}

const notWritten = (): Error => impossible('vector animations are drawn, not written')
const NOT_WRITTEN = { can: false, because: 'Vector animations are drawn, not written.' } as const

/** The row of the table, but for its name. */
export const vectorKind: PictureKind = {
  extension: 'json',
  mime: 'application/json',
  delivers: 'film',
  carries: 'shapes from which every frame is drawn',
  lossless: true,
  exactAlpha: true,
  depths: [{ depth: 16, colourBits: 16, alphaBits: 16 }],
  alpha: { straight: NOT_WRITTEN, premultiplied: NOT_WRITTEN, none: NOT_WRITTEN },
  declaredMattes: [],
  limits: { width: 65535, height: 65535, rate: 'any' },
  options: {},
  needs: 'vectors',
  proofReader: { name: 'a library that draws vector animations', independent: true },
  refusesRate: () => null,
  async recognise(head, reader) {
    // its ends may stand behind all of its pictures
    if (!/^\s*\{/.test(new TextDecoder().decode(head.subarray(0, 64))) || reader.size > MOST_BYTES) return null
    if (head.includes(0)) return null
    try {
      return looksLikeAnimation(JSON.parse(await textOf(reader))) ? 'film' : null
    } catch (error) {
      if (error instanceof SyntaxError) return null
      throw error
    }
  },
  async measure(reader) {
    const { width, height } = readAnimation(await textOf(reader), reader.name)
    return { width, height }
  },
  open,
  openForProof: open,
  encode: () => Promise.reject(notWritten()),
  assemble: () => Promise.reject(notWritten()),
  wrappedSize: encoded => encoded
}
