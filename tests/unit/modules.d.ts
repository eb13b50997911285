declare module 'tga-js' {
  export default class TgaLoader {
    load(data: Uint8Array): void
    getImageData(into?: ImageData): ImageData
  }
}
