/** Vector animations as sources: drawn in floating point when a frame is asked for, over nothing. */
import { damagedBy, impossible, unreadable } from '../../base/errors'
import { readAll, type ByteReader, type FileRef } from '../../base/files/file'
import type { OpenedPictures } from '../../media/formats/format'
import { renderedFacts, renderedKind } from '../../media/formats/rendered'
import { straightCodes } from '../../frame/straight-codes'
import type { Host } from '../../frame/host'
import type { Finding } from '../../source/source'
import { inTurn } from '../../source/turns'
import { withPictures } from './beside'
import { leftOutFindings } from './left-out'
import { askedSize, sizesOf } from './sizes'
import { looksLikeAnimation, MOST_BYTES, readAnimation, type VectorAnimation } from './animation'

async function textOf(reader: ByteReader): Promise<string> {
  if (reader.size > MOST_BYTES)
    throw unreadable(reader.name, null, `a vector animation of ${reader.size} bytes is longer than can be taken`)
  return new TextDecoder().decode(await readAll(reader))
}

function findingsOf({ markers, leftOut }: VectorAnimation): Finding[] {
  const findings = leftOutFindings(leftOut)
  if (markers.length)
    findings.push({
      id: 'markers',
      severity: 'note',
      frames: markers.map(({ from }) => from),
      sentence: `It marks ${markers
        .slice(0, 8)
        .map(({ name, from, to }) => `“${name}” ${from} to ${to}`)
        .join(
          ', '
        )}${markers.length > 8 ? ` and ${markers.length - 8} more` : ''}; each may be kept as a span, on the bench.`
    })
  return findings
}

async function open(name: string, file: FileRef, host: Host, size?: string): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const stored = await textOf(reader).finally(() => reader.close())
  const text = await withPictures(stored, file, host)
  const animation = readAnimation(text, reader.name)
  const { frames, rate, first } = animation
  const { width, height } = askedSize(size, animation)
  if (!host.vectors) throw impossible('vector animations cannot be drawn by this machine', reader.name)
  const player = await host.vectors.open(text, { width, height }).catch((error: unknown) => {
    throw damagedBy(error, why => unreadable(reader.name, null, `it cannot be played (${why})`))
  })
  const turns = inTurn(reader.name, frames, index => {
    let pixels: Float32Array
    try {
      pixels = player.frame(first + index)
    } catch (error) {
      throw damagedBy(error, why => unreadable(reader.name, `frame ${index + 1}`, `it cannot be played (${why})`))
    }
    return Promise.resolve(straightCodes({ left: 0, top: 0, right: width, bottom: height, pixels }, width, height))
  })
  const kind = 'vector animation'
  return {
    facts: {
      ...renderedFacts({ name, kind, width, height, frames, rate, bytes: file.size, findings: findingsOf(animation) }),
      ...sizesOf(animation, { width, height }),
      ...(animation.markers.length ? { marked: animation.markers } : {})
    },
    ...turns,
    async close() {
      await turns.settled()
      player.close()
    }
  }
}

/** The row of the table, but for its name. */
export const vectorKind = renderedKind({
  plural: 'Vector animations',
  carries: 'shapes from which every frame is drawn',
  needs: 'vectors',
  proofReader: { name: 'a library that draws vector animations', independent: true },
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
  open
})
