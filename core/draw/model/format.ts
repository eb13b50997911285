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
import { mayBeModel, MOST_BYTES, RATE, readModel, type Model } from './gltf'

const USUAL = { width: 1920, height: 1080 }

async function bytesOf(reader: ByteReader): Promise<Uint8Array> {
  if (reader.size > MOST_BYTES)
    throw unreadable(reader.name, null, `a model of ${reader.size} bytes is larger than can be taken`)
  return readAll(reader)
}

function findingsOf({ leftOut, moves, camera }: Model): Finding[] {
  const note = (id: string, severity: Finding['severity'], sentence: string): Finding => ({
    id,
    severity,
    frames: [],
    sentence
  })
  return [
    ...leftOutFindings(leftOut),
    note(
      'model-drawn',
      'note',
      `${moves ? 'Its first animation is drawn' : 'Nothing in it moves: it turns once about itself'}, ` +
        `${camera ? 'seen by its own camera' : 'seen from the front and a little above'}, at ${RATE} f/s, with ` +
        'its shadow on an unseen floor as alpha.'
    )
  ]
}

async function open(name: string, file: FileRef, host: Host, size?: string): Promise<OpenedPictures> {
  const reader = await host.openFile(file)
  const bytes = await bytesOf(reader).finally(() => reader.close())
  const model = readModel(bytes, reader.name)
  const { width, height } = askedSize(size, USUAL)
  const { models } = host
  if (!models)
    throw impossible('models are drawn in the page, by the browser; the command line has no way to', reader.name)
  const player = await models.open(bytes, { width, height, moves: model.moves }).catch((error: unknown) => {
    throw damagedBy(error, why => unreadable(reader.name, null, `it cannot be drawn (${why})`))
  })
  const turns = inTurn(reader.name, model.frames, index => {
    const pixels = player.frame(model.moves ? index / RATE : index / model.frames)
    return Promise.resolve(straightCodes({ left: 0, top: 0, right: width, bottom: height, pixels }, width, height))
  })
  return {
    facts: {
      ...renderedFacts({
        name,
        kind: 'glTF model',
        width,
        height,
        frames: model.frames,
        rate: [RATE, 1],
        bytes: file.size,
        findings: findingsOf(model)
      }),
      ...sizesOf(USUAL, { width, height })
    },
    ...turns,
    async close() {
      await turns.settled()
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
