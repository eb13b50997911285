declare module '@cornerstonejs/codec-openjpeg/decodewasmjs' {
  export default function begin(options: {
    wasmBinary: ArrayBuffer
    print(text: string): void
    printErr(text: string): void
  }): Promise<unknown>
}
