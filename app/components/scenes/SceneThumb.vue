<script setup lang="ts">
/** A small picture of a scene at a frame, over a checker of middle tones. */
import { ref, watch } from 'vue'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { plainScene, sceneFile } from '~~/core/draw/scene/as-file'
import { relaid } from '~~/core/draw/scene/relaid'
import type { Scene } from '~~/core/draw/scene/scene'

const {
  scene,
  index,
  width,
  height,
  near = false
} = defineProps<{
  scene: Scene
  index: number
  width: number
  height: number
  /** Of a scene of one element, or one group and what is in it: as large as the picture lets it be. */
  near?: boolean
}>()
const workshop = useWorkshop()
const sources = useSources()
const canvas = ref<HTMLCanvasElement | null>(null)
const failed = ref('')

/** The scene with its one element in the middle, so large that it just fits. */
async function nearer(small: Scene, signal: AbortSignal): Promise<Scene> {
  const element = small.elements.find(({ inside }) => inside === undefined)
  const boxes = await workshop.pool.run('sceneBoxes', [plainScene(small), 0], { signal })
  const box = element && boxes[element.id]
  if (!box) return small
  const [left, top, right, bottom] = box
  const by = 0.88 * Math.min(small.width / Math.max(1, right - left), small.height / Math.max(1, bottom - top))
  const about = (place: number, middle: number, side: number): number => side / 2 + (place - middle) * by
  return {
    ...small,
    elements: [
      ...small.elements.filter(other => other !== element),
      {
        ...element,
        scale: element.scale * by,
        x: about(element.x, (left + right) / 2, small.width),
        y: about(element.y, (top + bottom) / 2, small.height)
      }
    ]
  }
}

watch(
  // what it shows of other sources changes with them
  () =>
    [
      sceneFile(scene).stamp,
      index,
      canvas.value,
      sources.shownKey(scene).join(' '),
      !!sources.sceneAsSpec(scene)
    ] as const,
  async (_now, _before, onCleanup) => {
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    try {
      const small = relaid(scene, 2 * width, 2 * height)
      const spec = sources.sceneAsSpec(near ? await nearer(small, stop.signal) : small)
      // it is drawn once what it shows is at hand
      if (!spec) return
      const { pixels } = await workshop.pool.run('view', [spec, index, 'over'], { signal: stop.signal })
      canvas.value
        ?.getContext('2d')
        ?.putImageData(new ImageData(pixels as Uint8ClampedArray<ArrayBuffer>, 2 * width, 2 * height), 0, 0)
      failed.value = ''
    } catch (error) {
      if (!isAbort(error)) failed.value = sentenceOf(error)
    }
  },
  { immediate: true }
)
</script>

<template>
  <canvas
    ref="canvas"
    :width="2 * width"
    :height="2 * height"
    :style="{ width: `${width}px`, height: `${height}px` }"
    :title="failed || undefined"
    aria-hidden="true"
  />
</template>

<style scoped>
canvas {
  display: block;
  border: 1px solid var(--line);
  border-radius: 3px;
  flex: none;

  /* tones between black and white: lettering of either can be seen */
  background: conic-gradient(#6f7a75 25%, #838d88 0 50%, #6f7a75 0 75%, #838d88 0) 0 0 / 12px 12px;
}
</style>
