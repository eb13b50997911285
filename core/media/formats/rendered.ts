/** What the rows of rendered sources share: scenes and vector animations are drawn to frames, and never written. */
import { impossible } from '../../base/errors'
import type { FileRef } from '../../base/files/file'
import type { Host } from '../../frame/host'
import type { OpenedPictures, PictureKind } from './format'

interface Rendered extends Pick<PictureKind, 'carries' | 'proofReader' | 'recognise' | 'measure'> {
  /** What such a source is called in the plural, at the beginning of a sentence. */
  plural: string
  needs?: PictureKind['needs']
  /** Of a drawing at the size asked for, as "WxH". */
  open(name: string, file: FileRef, host: Host, size?: string): Promise<OpenedPictures>
}

/** Facts that all of them have: 16 bits, straight, square pixels, a rate of their own. */
export function renderedFacts(
  own: Pick<OpenedPictures['facts'], 'name' | 'kind' | 'width' | 'height' | 'frames' | 'rate' | 'bytes' | 'findings'>
): OpenedPictures['facts'] {
  return {
    ...own,
    intra: true,
    rateFrom: 'file',
    bitDepth: 16,
    claim: { mode: 'straight', matte: null, says: 'rendered here, with straight alpha' },
    colour: 'sRGB',
    pixelAspect: [1, 1],
    plays: null
  }
}

/** The pictures of a kind that is drawn and never written. */
export function renderedKind({ plural, open, ...own }: Rendered): PictureKind {
  const notWritten = (): Error => impossible(`${plural.toLowerCase()} are rendered, not written`)
  const cannot = { can: false, because: `${plural} are rendered, not written.` } as const
  const opening: PictureKind['open'] = (name, files, host, size) => open(name, files[0]!, host, size)
  return {
    extension: 'json',
    mime: 'application/json',
    delivers: 'film',
    lossless: true,
    exactAlpha: true,
    depths: [{ depth: 16, colourBits: 16, alphaBits: 16 }],
    alpha: { straight: cannot, premultiplied: cannot, none: cannot },
    declaredMattes: [],
    limits: { width: 65535, height: 65535, rate: 'any fraction' },
    options: {},
    refusesRate: () => null,
    ...own,
    open: opening,
    openForProof: opening,
    encode: () => Promise.reject(notWritten()),
    assemble: () => Promise.reject(notWritten()),
    wrappedSize: encoded => encoded
  }
}
