<script setup lang="ts">
/** One station: its picture of the delivered file over the backdrop, its error, and what the receiver must do. */
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useWorkshop } from '~/stores/workshop'
import type { HexColour } from '~~/core/colour'
import { isAbort, sentenceOf } from '~~/core/errors'
import { formatById } from '~~/core/formats/registry'
import type { PourPlan } from '~~/core/outlet/plan'
import type { SourceFacts, SourceSpec } from '~~/core/source/source'
import { stationSentence } from '~~/core/stations/show'
import type { Station } from '~~/core/stations/station'

const { station, delivered, facts, plan, file, index, backdrop } = defineProps<{
  station: Station
  delivered: SourceSpec
  facts: SourceFacts
  plan: PourPlan
  file: Blob
  index: number
  backdrop: HexColour
}>()

const workshop = useWorkshop()
const canvas = ref<HTMLCanvasElement | null>(null)
const outcome = ref<{ right: boolean; sentence: string } | null>(null)
const failed = ref<string | null>(null)
const played = ref(0)
const address = ref<string | null>(null)
const opens = computed(() => station.opens === null || station.opens.includes(plan.outlet.format))

watch(
  [() => delivered.id, () => index, () => backdrop, canvas],
  async (_now, _before, onCleanup) => {
    if (!opens.value || station.kind !== 'decode') return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    try {
      const { alpha } = station.reads(facts)
      // the station reads the stored samples: what the file was meant to be is none of its knowledge
      const shown = await workshop.pool.run('station', [{ delivered: { ...delivered, interpretation: { ...delivered.interpretation, alpha: null } }, index, reference: delivered, referenceIndex: index, show: { alpha, backdrop } }], { signal: stop.signal })
      const context = canvas.value?.getContext('2d')
      if (context) {
        Object.assign(context.canvas, { width: shown.width, height: shown.height })
        context.putImageData(new ImageData(shown.pixels, shown.width, shown.height), 0, 0)
      }
      outcome.value = stationSentence(shown.error, alpha, station.remedy(facts))
      failed.value = null
    } catch (error) {
      if (!isAbort(error)) failed.value = sentenceOf(error)
    }
  },
  { immediate: true, flush: 'post' }
)

watch(
  [() => delivered.id, () => backdrop],
  async (_now, _before, onCleanup) => {
    if (!opens.value || station.kind !== 'browser') return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    if (address.value) URL.revokeObjectURL(address.value)
    address.value = URL.createObjectURL(file)
    outcome.value = null
    played.value = 0
    try {
      const { deliverable } = plan
      outcome.value = await playInBrowser(file, formatById(plan.outlet.format).mime, { frames: plan.frames.length, rate: deliverable.rate, plays: Number(deliverable.options.plays ?? 0) }, delivered, backdrop, workshop.pool, done => (played.value = done), stop.signal)
    } catch (error) {
      if (!isAbort(error)) failed.value = sentenceOf(error)
    }
  },
  { immediate: true }
)

onBeforeUnmount(() => {
  if (address.value) URL.revokeObjectURL(address.value)
})

</script>

<template>
  <article class="station" :class="[station.kind, { plain: !opens }]" :data-station="station.id">
    <div class="screen" :style="{ background: opens ? backdrop : undefined }">
      <template v-if="opens">
        <canvas v-if="station.kind === 'decode'" ref="canvas" role="img" :aria-label="`What ${station.name} shows`" />
        <video v-else-if="address && formatById(plan.outlet.format).mime.startsWith('video/')" :src="address" autoplay loop muted playsinline />
        <img v-else-if="address" :src="address" alt="The file itself, played by this browser" />
      </template>
      <p v-else>No page plays this file.<br />Pour WebM, WebP or an animated PNG for web pages.</p>
    </div>
    <div class="words">
      <h3>
        <span v-if="opens && outcome" class="glyph" :class="outcome.right ? 'right' : 'wrong'" aria-hidden="true">{{ outcome.right ? '✓' : '!' }}</span>
        {{ station.name }}
      </h3>
      <p class="soft family">Stands for {{ station.family }}.</p>
      <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
      <p v-else-if="!opens" class="soft">As expected for this format.</p>
      <p v-else-if="outcome" :class="outcome.right ? 'right' : 'wrong'">{{ outcome.sentence }}</p>
      <p v-else class="soft">{{ station.kind === 'browser' ? `Playing: ${played} of ${plan.frames.length} frames read back.` : 'Importing …' }}</p>
    </div>
  </article>
</template>

<style scoped>
.station {
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: var(--radius);
  overflow: hidden;
  display: flex;
  flex-direction: column;
}

.screen {
  height: 128px;
  display: grid;
  place-items: center;
  border-bottom: 1px solid var(--line);
}

.plain .screen {
  background: var(--ground);
  color: var(--soft);
  text-align: center;
}

canvas,
video,
img {
  width: 100%;
  height: 128px;
  object-fit: contain;
}

.words {
  padding: 8px 10px 10px;
}

h3 {
  margin: 0;
  font-size: 13px;
  font-weight: 600;
}

.family {
  font-size: 12px;
}

.glyph {
  display: inline-grid;
  place-items: center;
  width: 15px;
  height: 15px;
  border-radius: 50%;
  font-size: 12px;
  line-height: 1;
  color: var(--raised) !important;
}

.glyph.right {
  background: var(--verdigris);
}

.glyph.wrong {
  background: var(--ochre);
}

.right {
  color: var(--verdigris);
}

.wrong {
  color: var(--ochre);
}
</style>
