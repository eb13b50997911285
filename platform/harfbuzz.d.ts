declare module 'harfbuzzjs/hb.js' {
  export default function begin(options: never): Promise<unknown>
}
declare module 'harfbuzzjs/hbjs.js' {
  interface Freed {
    destroy(): void
  }
  interface HarfBuzz {
    createBlob(bytes: ArrayBuffer | Uint8Array): Freed
    createFace(
      blob: Freed,
      index: number
    ): Freed & {
      upem: number
      reference_table(tag: string): Uint8Array | undefined
    }
    createFont(face: Freed): Freed & {
      hExtents(): { ascender: number; descender: number }
      glyphToJson(glyph: number): { type: 'M' | 'L' | 'Q' | 'C' | 'Z'; values: number[] }[]
    }
    createBuffer(): Freed & {
      addText(text: string, offset: number, length: number): void
      setDirection(direction: 'ltr' | 'rtl'): void
      guessSegmentProperties(): void
      getGlyphInfosAndPositions(): {
        codepoint: number
        cluster: number
        x_advance: number
        x_offset: number
        y_offset: number
      }[]
    }
    shape(font: Freed, buffer: Freed, features: string): void
  }
  export default function over(module: unknown): HarfBuzz
}
