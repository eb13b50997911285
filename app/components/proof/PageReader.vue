<script setup lang="ts">
/**
 * A closed-off page that plays files and hands their pixels back. It is always in sight, though hardly seen: browsers
 * let pages out of sight sleep, and nothing could be read back from one.
 */
import { nextTick, onBeforeUnmount, ref } from 'vue'
import { closedPage, type ClosedPage } from '~/composables/useClosedPage'
import { playInBrowser, type BrowserPlay, type Played } from '~/composables/useBrowserPlay'
import type { Pool } from '~~/core/base/pool'
import type { Tasks } from '~~/core/tasks/tasks'

const frame = ref<HTMLIFrameElement | null>(null)
const reading = ref(false)
let talk: ClosedPage | null = null

/**
 * Plays a file to its end and judges it; a file that was being played is given up. Rejects when the browser cannot read
 * it.
 */
async function play(
  played: Played,
  pool: Pool<Tasks>,
  onProgress: (done: number) => void,
  signal: AbortSignal
): Promise<BrowserPlay> {
  talk?.close()
  reading.value = false
  await nextTick()
  reading.value = true
  await nextTick()
  const page = frame.value
  if (!page) throw new DOMException('The page was closed.', 'AbortError')
  await new Promise(resolve => page.addEventListener('load', resolve, { once: true }))
  signal.throwIfAborted()
  const mine = closedPage(page)
  talk = mine
  try {
    return await playInBrowser(mine, played, pool, onProgress, signal)
  } finally {
    mine.close()
    if (talk === mine) reading.value = false
  }
}

onBeforeUnmount(() => talk?.close())
defineExpose({ play })
</script>

<template>
  <iframe
    v-if="reading"
    ref="frame"
    class="reader"
    src="/closed-page"
    sandbox="allow-scripts"
    title="A file, being read back"
    tabindex="-1"
    aria-hidden="true"
  />
</template>

<style scoped>
.reader {
  position: fixed;
  right: 0;
  bottom: 0;
  width: 16px;
  height: 16px;
  opacity: 0.02;
  border: 0;
}
</style>
