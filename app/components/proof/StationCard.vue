<script setup lang="ts">
/** One station: its picture of the delivered file in the scene, how it stands, and what the receiver must do. */
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import type { Exhibit, OpenedExhibit } from '~/composables/useExhibit'
import { closedPage, type ClosedPage } from '~/composables/useClosedPage'
import PageReader from './PageReader.vue'
import { useWorkshop } from '~/stores/workshop'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { formatById } from '~~/core/open/registry'
import type { AlphaMode } from '~~/core/frame/frame'
import type { FilesSpec, SourceSpec } from '~~/core/source/source'
import type { StationScene } from '~~/core/judge/stations/scene'
import type { Judgement, Station } from '~~/core/judge/stations/station'
import type { Visit } from '~~/core/judge/stations/visit'
import { halvesHow } from '~~/core/run/handover/halves-page'

const {
  station,
  exhibit,
  opened,
  index,
  scene,
  chosen,
  behind = null,
  playing = false,
  fallback = null
} = defineProps<{
  station: Station
  exhibit: Exhibit
  opened: OpenedExhibit
  index: number
  scene: StationScene
  /** A frame of a source that stands behind, in place of the scene's backdrop. */
  behind?: { spec: SourceSpec; index: number } | null
  chosen: boolean
  /** While the clip plays, only the one shown large is painted anew. */
  playing?: boolean
  /** What is shown where the file itself cannot be played. */
  fallback?: { name: string; spec: FilesSpec; due: AlphaMode } | null
}>()
const emit = defineEmits<{ choose: []; shown: [visit: Visit | null] }>()

const workshop = useWorkshop()
const canvas = ref<HTMLCanvasElement | null>(null)
const page = ref<HTMLIFrameElement | null>(null)
const reader = ref<InstanceType<typeof PageReader> | null>(null)
const outcome = ref<Judgement | null>(null)
const failed = ref<string | null>(null)
const played = ref(0)
const refusal = computed(() => station.refuses({ facts: opened.facts, due: exhibit.due }))

/** What the file was made from; once that has changed, it is no measure of the file any more. */
const source = computed(() => {
  const { reference: spec, frames, stale } = exhibit
  return spec && frames && !stale ? { spec, frames } : null
})

watch(
  [() => opened.id, () => index, () => scene, () => behind, () => fallback, () => playing && !chosen, canvas],
  async (_now, _before, onCleanup) => {
    if (refusal.value || station.kind !== 'picture' || !canvas.value || (playing && !chosen)) return
    const stop = new AbortController()
    // a frame that is on its way is still shown while it plays; the next one follows it
    onCleanup(() => void (playing || stop.abort()))
    try {
      const taken = fallback
        ? { station: 'reads-the-label', delivered: fallback.spec, due: fallback.due }
        : { station: station.id, delivered: opened.spec, due: exhibit.due }
      const at = source.value?.frames[index]
      const reference = source.value && at !== undefined ? { spec: source.value.spec, index: at } : null
      const shown = await workshop.pool.run('station', [{ ...taken, index, scene, behind, reference }], {
        signal: stop.signal,
        ...(chosen ? { priority: 'now' as const } : {})
      })
      const context = canvas.value.getContext('2d')!
      Object.assign(context.canvas, { width: shown.width, height: shown.height })
      context.putImageData(new ImageData(shown.pixels, shown.width, shown.height), 0, 0)
      outcome.value = fallback
        ? {
            standing: shown.standing,
            sentence:
              shown.standing === 'right'
                ? `Shows the fallback in its place, ${fallback.name}, which is right.`
                : `Shows the fallback in its place, ${fallback.name}. ${shown.sentence}`
          }
        : shown
      failed.value = null
      emit('shown', { ...shown, ...outcome.value })
    } catch (error) {
      if (!isAbort(error)) failed.value = sentenceOf(error)
    }
  },
  { immediate: true, flush: 'post' }
)

const colour = computed(() => (scene.backdrop.kind === 'colour' ? scene.backdrop.colour : '#4a7ba6'))
const loaded = ref(false)
let sight: ClosedPage | null = null

watch(
  [() => opened.id, colour, loaded],
  async (_now, _before, onCleanup) => {
    if (refusal.value || station.kind !== 'browser' || !loaded.value || !page.value) return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    const files = opened.spec.files
    const file = opened.file ?? (files[0]?.kind === 'blob' ? files[0].blob : null)
    if (!file || (opened.facts.frames !== 1 && formatById(exhibit.format).delivers === 'pictures'))
      return void (failed.value = 'A sequence of pictures is no single file that a page could play.')
    outcome.value = null
    failed.value = null
    played.value = 0
    sight?.close()
    sight = closedPage(page.value)
    try {
      await sight.back(colour.value)
      const { stacked } = opened.facts
      const halves = stacked ? halvesHow(stacked, exhibit.due) : null
      await sight.show(file, formatById(exhibit.format).mime, halves)
      const { facts } = opened
      const due = { frames: facts.frames, rate: facts.rate, plays: exhibit.plays ?? facts.plays }
      outcome.value = await reader.value!.play(
        {
          file,
          type: formatById(exhibit.format).mime,
          halves,
          due,
          delivered: opened.spec,
          source: source.value,
          backdrop: colour.value
        },
        workshop.pool,
        done => (played.value = done),
        stop.signal
      )
    } catch (error) {
      if (!isAbort(error)) failed.value = sentenceOf(error)
    }
  },
  { immediate: true }
)

onBeforeUnmount(() => sight?.close())

const GLYPHS = { right: '✓', setting: '›', wrong: '!' } as const
const WORDS = { right: 'Right', setting: 'Right after a setting', wrong: 'Wrong' } as const
</script>

<template>
  <article
    class="station"
    :class="{ plain: refusal, chosen }"
    :data-station="station.id"
    :data-standing="refusal ? 'refuses' : outcome?.standing"
  >
    <button
      class="plain screen"
      :disabled="!!refusal || station.kind === 'browser'"
      :aria-label="`Show ${station.name} large`"
      :aria-pressed="chosen"
      @click="$emit('choose')"
    >
      <p v-if="refusal">{{ refusal }}</p>
      <canvas
        v-else-if="station.kind === 'picture'"
        ref="canvas"
        role="img"
        :aria-label="`What ${station.name} shows`"
      />
      <iframe
        v-else
        ref="page"
        src="/closed-page"
        sandbox="allow-scripts"
        title="The file itself, played by this browser"
        @load="loaded = true"
      />
      <PageReader v-if="station.kind === 'browser' && !refusal" ref="reader" />
    </button>
    <div class="words">
      <h3>
        <span v-if="!refusal && outcome" class="glyph" :class="outcome.standing" :title="WORDS[outcome.standing]"
          >{{ GLYPHS[outcome.standing] }}<span class="visually-hidden">{{ WORDS[outcome.standing] }}: </span></span
        >
        {{ station.name }}
      </h3>
      <p class="soft family" :title="station.explains">Stands for {{ station.family }}.</p>
      <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
      <p v-else-if="refusal" class="soft">Does not apply.</p>
      <p v-else-if="outcome" :class="outcome.standing">{{ outcome.sentence }}</p>
      <p v-else class="soft">
        {{
          station.kind === 'browser' ? `Playing: ${played} of ${opened.facts.frames} frames read back.` : 'Importing …'
        }}
      </p>
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

.station.chosen {
  outline: 2px solid var(--copper);
  outline-offset: -1px;
}

.screen {
  width: 100%;
  box-sizing: content-box;
  aspect-ratio: 16 / 9;
  position: relative;
  display: grid;
  place-items: center;
  border-bottom: 1px solid var(--line);
  background: var(--sunk);
}

.plain .screen {
  box-sizing: border-box;
  background: var(--ground);
  color: var(--soft);
  text-align: center;
  cursor: default;
  padding: 0 12px;
}

canvas,
iframe {
  /* out of the flow, so that no picture's own size makes a card taller than its neighbours */
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
  border: 0;
  pointer-events: none;
}

.words {
  padding: 7px 10px 9px;
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
  color: var(--raised);
}

.glyph.right {
  background: var(--verdigris);
}

.glyph.setting {
  background: var(--copper);
}

.glyph.wrong {
  background: var(--brick);
}

p.right {
  color: var(--verdigris);
}

p.setting {
  color: var(--copper);
}

p.wrong {
  color: var(--brick);
}
</style>
