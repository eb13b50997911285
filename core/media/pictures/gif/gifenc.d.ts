declare module 'gifenc' {
  type Palette = number[][]
  export function quantize(
    rgba: Uint8Array,
    most: number,
    options?: { format?: 'rgb565' | 'rgb444' | 'rgba4444' }
  ): Palette
  export function applyPalette(
    rgba: Uint8Array,
    palette: Palette,
    format?: 'rgb565' | 'rgb444' | 'rgba4444'
  ): Uint8Array
  interface Writer {
    writeFrame(
      index: Uint8Array,
      width: number,
      height: number,
      options: {
        palette: Palette | null
        transparent: boolean
        transparentIndex: number
        delay: number
        dispose: number
        first: boolean
      }
    ): void
    bytes(): Uint8Array
  }
  export function GIFEncoder(options?: { auto?: boolean }): Writer
}
