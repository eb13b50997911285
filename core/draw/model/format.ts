/**
 * Models as sources: drawn in floating point over nothing, with the shadow that falls on an unseen floor. In a browser
 * only.
 */
import { damagedBy, impossible, unreadable } from '../../base/errors'
import { readAll, type ByteReader, type FileRef } from '../../base/files/file'
import type { OpenedPictures } from '../../media/formats/format'
import { renderedFacts, renderedKind } from '../../media/formats/rendered'
import { straightCodes } from '../../frame/straight-codes'
import type { Host } from '../../frame/host'
import type { Finding } from '../../source/source'
import { inTurn } from '../../source/turns'
import { leftOutFindings } from '../vector/left-out'
import { askedSize, sizesOf } from '../vector/sizes'
import { parseRate } from '../../base/rate'
import { mayBeModel, MOST_BYTES, readModel, type Model } from './gltf'
import { readView, writeView, type ModelView } from './view'

const USUAL = { width: 1920, height: 1080 }

async function bytesOf(reader: ByteReader): Promise<Uint8Array> {
  if (reader.size > MOST_BYTES)
    throw unreadable(reader.name, null, `a model of ${reader.size} bytes is larger than can be taken`)
  return readAll(reader)
}

/** Whether it turns about itself. */
const turnsIn = ({ moves }: Model, { turns }: ModelView): boolean => turns === 'once' || (turns === 'still' && !moves)

/** Seconds that it lasts. */
const lastsIn = (model: Model, view: ModelView): number => view.seconds || model.seconds

/** What is drawn of its animation. */
function sayPlayed({ seconds }: Model, lasts: number): string {
  if (lasts > seconds) return 'Its first animation is drawn again and again'
  return lasts < seconds ? `The first ${lasts} s of its first animation are drawn` : 'Its first animation is drawn'
}

function sayView(model: Model, view: ModelView): string {
  const { moves, camera } = model
  const turns = turnsIn(model, view)
  const acts = moves
    ? `${sayPlayed(model, lastsIn(model, view))}${turns ? ', while it turns once about itself' : ''}`
    : turns
      ? 'Nothing in it moves: it turns once about itself'
      : 'Nothing in it moves, and it does not turn: all frames are the same'
  const seen =
    camera && view.own
      ? 'seen by its own camera'
      : `seen from ${view.turned}° around it and ${Math.abs(view.tilted)}° ${view.tilted < 0 ? 'below' : 'above'}`
  const shadow = view.shadow > 0 ? 'with its shadow on an unseen floor as alpha' : 'without a shadow'
  return `${acts}, ${seen}, at ${view.rate} f/s, ${shadow}.`
}

function findingsOf(model: Model, view: ModelView): Finding[] {
  const { leftOut } = model
  const note = (id: string, severity: Finding['severity'], sentence: string): Finding => ({
    id,
    severity,
    frames: [],
    sentence
  })
  return [...leftOutFindings(leftOut), note('model-drawn', 'note', sayView(model, view))]
}

async function open(name: string, file: FileRef, host: Host, asked?: string): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const bytes = await bytesOf(reader).finally(() => reader.close())
  const model = readModel(bytes, reader.name)
  const { size, view } = readView(asked)
  const { width, height } = askedSize(size, USUAL)
  // no more decimals than a rate is read with
  const rate = parseRate(view.rate.toFixed(6))!
  const frames = Math.max(1, Math.round((lastsIn(model, view) * rate[0]) / rate[1]))
  const turns = turnsIn(model, view)
  const { models } = host
  if (!models)
    throw impossible('models are drawn in the page, by the browser; the command line has no way to', reader.name)
  const player = await models.open(bytes, { width, height, moves: model.moves, view }).catch((error: unknown) => {
    throw damagedBy(error, why => unreadable(reader.name, null, `it cannot be drawn (${why})`))
  })
  const drawn = inTurn(reader.name, frames, index => {
    const pixels = player.frame({ seconds: (index * rate[1]) / rate[0], turn: turns ? index / frames : 0 })
    return Promise.resolve(straightCodes({ left: 0, top: 0, right: width, bottom: height, pixels }, width, height))
  })
  return {
    facts: {
      ...renderedFacts({
        name,
        kind: 'glTF model',
        width,
        height,
        frames,
        rate,
        bytes: file.size,
        findings: findingsOf(model, view)
      }),
      ...sizesOf(USUAL, { width, height }),
      ...(asked === undefined ? {} : { layer: writeView({ size: `${width}x${height}`, view }) })
    },
    ...drawn,
    async close() {
      await drawn.settled()
      player.close()
    }
  }
}

/** The row of the table, but for its name. */
export const modelKind = renderedKind({
  plural: 'Models',
  carries: 'a model from which every frame is drawn',
  needs: 'models',
  proofReader: { name: 'the library that drew it', independent: false },
  async recognise(head, reader) {
    if (!mayBeModel(head) || reader.size > MOST_BYTES) return null
    try {
      readModel(await bytesOf(reader), reader.name)
      return 'film'
    } catch (error) {
      // a binary model that is damaged is one all the same, and says what is wrong with it; JSON may be something else
      if (head[0] === 0x67) throw error
      return null
    }
  },
  async measure(reader) {
    readModel(await bytesOf(reader), reader.name)
    return USUAL
  },
  open
})
