<script setup lang="ts">
/** A scene's picture under the hand, what is done with what is chosen there, and its alpha over time. */
import AlphaRibbon from '~/components/bench/AlphaRibbon.vue'
import FindingList from '~/components/shell/FindingList.vue'
import FrameAt from '~/components/shell/FrameAt.vue'
import FrameViewer, { type ViewerClip } from '~/components/viewer/FrameViewer.vue'
import HandsBar from '~/components/scenes/HandsBar.vue'
import PathHands from '~/components/scenes/PathHands.vue'
import SceneHands from '~/components/scenes/SceneHands.vue'
import { viewerClip } from '~/composables/viewerClip'
import type { useSceneHands } from '~/composables/useSceneHands'
import { computed, ref, watch } from 'vue'
import { useDesk } from '~/stores/desk'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import type { JobSource } from '~~/core/job/job'
import type { Examination } from '~~/core/judge/examine/examination'
import type { PathLook } from '~~/core/draw/scene/elements/path/look'
import type { Element, Scene } from '~~/core/draw/scene/scene'
import { findingKind } from '~~/core/source/finding-kinds'

const { source, scene, examination, hands } = defineProps<{
  source: JobSource
  scene: Scene
  examination: Examination | null
  hands: ReturnType<typeof useSceneHands>
}>()
const index = defineModel<number>('index', { required: true })
const emit = defineEmits<{ edit: [label: string, change: (scene: Scene) => void] }>()
const sources = useSources()
const workshop = useWorkshop()
const desk = useDesk()
const viewer = ref<InstanceType<typeof FrameViewer> | null>(null)
const { stands, chosen, trial, attempt, keep, shown } = hands

/** Scenes of more pixels than this play at half their size, and are so while a hand changes them. */
const PLAYS_WHOLE = 640 * 480
const large = computed(() => scene.width * scene.height > PLAYS_WHOLE)
const clip = computed<ViewerClip | null>(() => {
  const { pool } = workshop
  const tried = trial.value
  const spec = tried ? sources.sceneAsSpec(tried) : sources.specOf(source, { steps: [] })
  if (!spec) return null
  const whole = viewerClip(spec, source.name)
  if (spec.kind === 'prepared') return whole
  const half: ViewerClip['picture'] = (i, view, signal) =>
    pool.run('scenePreview', [spec, i, view], { signal, priority: 'now' })
  // what is tried at half its size is drawn anew once it is kept
  if (tried) return { ...whole, key: `tried ${whole.key}`, ...(large.value ? { picture: half, tried: true } : {}) }
  return large.value ? { ...whole, preview: half } : whole
})

/** What was found of the scene itself as it was laid out: letters that no face has, what shrank, what sticks out. */
const told = computed(() => (examination?.findings ?? []).filter(({ id }) => findingKind(id).ofTheFile))

/** The path that is chosen by itself, as it is or is tried, and whether it is being drawn anew. */
const path = computed(() => {
  const [id, ...more] = chosen.value
  if (!id || more.length || !stands.value[id]) return null
  const of = (within: Scene): Element | undefined => within.elements.find(each => each.id === id)
  const element = of(scene)
  if (element?.look.kind !== 'path' || element.locked) return null
  const look = (trial.value && of(trial.value)?.look) ?? element.look
  return { id, look: look as PathLook, stand: stands.value[id] }
})
const drawing = ref(false)
watch(
  () => path.value?.id,
  () => (drawing.value = false)
)

const ofPath =
  (change: (look: PathLook) => void) =>
  (now: Scene): void => {
    const look = now.elements.find(each => each.id === path.value?.id)?.look
    if (look?.kind === 'path') change(look)
  }

defineExpose({ playing: computed(() => viewer.value?.playing ?? false) })
</script>

<template>
  <div class="place-middle">
    <FrameViewer
      ref="viewer"
      v-model:index="index"
      class="place-view"
      :clip="clip"
      :width="scene.width"
      :height="scene.height"
      :frames="scene.frames"
      :rate="scene.rate"
      @shown="shown"
    >
      <template #over="{ box }">
        <template v-if="!viewer?.playing">
          <SceneHands
            v-if="!drawing"
            :scene="scene"
            :stands="stands"
            :chosen="chosen"
            :box="box"
            :quiet="path !== null"
            @choose="hands.choose"
            @attempt="attempt"
            @keep="keep"
          />
          <PathHands
            v-if="path"
            :key="`${path.id} ${drawing}`"
            :look="path.look"
            :stand="path.stand"
            :box="box"
            :width="scene.width"
            :fresh="drawing"
            @attempt="change => attempt(change && ofPath(change))"
            @keep="(label, change) => keep(label, ofPath(change))"
            @end="drawing = false"
          />
          <div v-if="chosen.length" class="bar" @pointerdown.stop>
            <HandsBar
              :many="chosen.length"
              :path="path !== null"
              @line-up="hands.inLine"
              @spread="hands.evenly"
              @draw="drawing = true"
              @take="
                made =>
                  emit(
                    'edit',
                    'Take a path from a file',
                    ofPath(now => void Object.assign(now, made))
                  )
              "
            />
          </div>
        </template>
      </template>
    </FrameViewer>
    <section class="place-under">
      <div class="place-line">
        <h2>Alpha ribbon</h2>
        <span class="spring" />
        <el-button size="small" aria-label="One frame back" @click="viewer?.step(-1)">◀</el-button>
        <el-button size="small" class="play" title="Play or stop (space)" @click="viewer?.play()">{{
          viewer?.playing ? 'Stop' : 'Play'
        }}</el-button>
        <el-button size="small" aria-label="One frame on" @click="viewer?.step(1)">▶</el-button>
        <span class="spring" />
        <FrameAt v-model:index="index" :frames="scene.frames" :rate="scene.rate" />
      </div>
      <AlphaRibbon
        v-model:index="index"
        :ribbon="examination?.ribbon ?? null"
        :frames="scene.frames"
        :findings="[]"
        :marks="null"
        :dim="desk.theme === 'dim'"
      />
      <FindingList v-if="told.length" class="told scroll" :findings="told" aria-label="What was found of the scene" />
    </section>
  </div>
</template>

<style scoped>
.bar {
  position: absolute;
  top: 8px;
  right: 8px;
  display: flex;
  gap: 4px;
}

.bar :deep(.el-button + .el-button) {
  margin-left: 0;
}

.told {
  margin-top: 8px;
  max-height: 74px;
  font-size: 12px;
}

.play {
  width: 64px;
}
</style>
