/** Setting of letters by a library's shaper as WASM: glyphs of a text in a font, their places and outlines. */
import type { HarfBuzz } from 'harfbuzzjs/hbjs.js'
import type { Shaper, TypeFile } from '../core/frame/host'
import { beginOnce } from './begin-wasm'

/** Fonts of which nobody holds anything any more leave the library's memory too. */
const left = new FinalizationRegistry<{ destroy(): void }[]>(parts => {
  for (const part of parts) part.destroy()
})

function typeFile(library: HarfBuzz, sfnt: Uint8Array): TypeFile {
  const blob = library.createBlob(sfnt)
  const face = library.createFace(blob, 0)
  const font = library.createFont(face)
  const { ascender, descender } = font.hExtents()
  // 'maxp' (ISO/IEC 14496-22, 5.2.6) says how many glyphs there are
  const most = face.reference_table('maxp')
  const file: TypeFile = {
    unitsPerEm: face.upem,
    glyphs: most && most.length >= 6 ? most[4]! * 256 + most[5]! : 0,
    ...{ ascender, descender },
    shape(text, { from, to, rightToLeft, features }) {
      const buffer = library.createBuffer()
      try {
        buffer.addText(text, from, to - from)
        buffer.guessSegmentProperties()
        buffer.setDirection(rightToLeft ? 'rtl' : 'ltr')
        library.shape(font, buffer, features)
        return buffer.getGlyphInfosAndPositions().map(found => ({
          glyph: found.codepoint,
          cluster: found.cluster,
          advance: found.x_advance,
          x: found.x_offset,
          y: found.y_offset
        }))
      } finally {
        buffer.destroy()
      }
    },
    outline: glyph => font.glyphToJson(glyph)
  }
  left.register(file, [font, face, blob])
  return file
}

/** Where the libraries come from. */
export interface ShaperParts {
  code(): Promise<{ default: (options: never) => Promise<unknown> }>
  module(): Promise<WebAssembly.Module>
}

/** A shaper over its library's parts. */
export function shaper({ code, module: load }: ShaperParts): Shaper {
  const begun = beginOnce(code, load)
  let library: Promise<HarfBuzz> | null = null
  return {
    async open(sfnt) {
      library ??= Promise.all([begun(), import('harfbuzzjs/hbjs.js')]).then(([module, { default: over }]) =>
        over(module)
      )
      library.catch(() => (library = null))
      return typeFile(await library, sfnt)
    },
    async unpack(woff2) {
      const { default: decompress } = await import('woff2-encoder/decompress')
      const sfnt = await decompress(woff2).catch(() => null)
      if (!sfnt?.length) throw new Error('what it packs cannot be unpacked')
      // a copy: the library's own array may be a view of its memory
      return sfnt.slice()
    }
  }
}
