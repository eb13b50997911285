/** Entry of a worker thread on Node. `workerData` is the path of the kernels file. */
import { parentPort, workerData } from 'node:worker_threads'
import { expose } from 'comlink'
import nodeEndpoint from 'comlink/dist/esm/node-adapter.mjs'
import { workerFace } from '../worker-side'
import { nodeHost } from './host'

expose(
  workerFace(() => nodeHost(workerData as string)),
  nodeEndpoint(parentPort!)
)
