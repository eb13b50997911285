declare module 'comlink/dist/esm/node-adapter.mjs' {
  import type { Endpoint } from 'comlink'
  interface NodeEndpoint {
    postMessage(message: unknown, transfer?: unknown[]): void
    on(type: string, listener: (value: unknown) => void): unknown
    off(type: string, listener: (value: unknown) => void): unknown
  }
  export default function nodeEndpoint(port: NodeEndpoint): Endpoint
}
