/** Entry of a web worker: the core's tasks over a browser host. */
import { expose } from 'comlink'
import { addresses } from '~/addresses'
import { browserHost } from '~~/platform/browser/host'
import { workerFace } from '~~/platform/worker-side'

expose(workerFace(() => browserHost(addresses)))
