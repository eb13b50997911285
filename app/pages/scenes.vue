<script setup lang="ts">
/** The place of scenes: a running order in sentences, its picture, and what its render will be. */
import AddElement from '~/components/scenes/AddElement.vue'
import AlphaRibbon from '~/components/bench/AlphaRibbon.vue'
import ElementForm from '~/components/scenes/ElementForm.vue'
import FindingList from '~/components/shell/FindingList.vue'
import FrameAt from '~/components/shell/FrameAt.vue'
import FrameViewer from '~/components/viewer/FrameViewer.vue'
import SceneCard from '~/components/scenes/SceneCard.vue'
import SceneSide from '~/components/scenes/SceneSide.vue'
import StarterShelf from '~/components/scenes/StarterShelf.vue'
import UndoButtons from '~/components/shell/UndoButtons.vue'
import { sayCoverage, sayFrames } from '~/composables/say'
import { useElementActs } from '~/composables/useElementActs'
import { download } from '~/composables/useDownload'
import { viewerClip } from '~/composables/viewerClip'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { ViewerClip } from '~/components/viewer/FrameViewer.vue'
import type { Point, Tool } from '~/components/viewer/ToolLayer.vue'
import { useDesk } from '~/stores/desk'
import { useScenes } from '~/stores/scenes'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { rateFraction } from '~~/core/base/rate'
import { plainScene, sceneAbroad, sceneFile, sceneText } from '~~/core/draw/scene/as-file'
import { groupsFor, moveInto, shift } from '~~/core/draw/scene/groups'
import { fullestFrame, inOrderOf } from '~~/core/draw/scene/order'
import { addsLight, type Scene } from '~~/core/draw/scene/scene'
import { lastsOf } from '~~/core/draw/scene/timing'
import { findingKind } from '~~/core/source/finding-kinds'

const route = useRoute()
const router = useRouter()
const sources = useSources()
const store = useScenes()
const workshop = useWorkshop()
const desk = useDesk()

const viewer = ref<InstanceType<typeof FrameViewer> | null>(null)
const index = ref(0)
const making = ref(false)
const opened = ref<string | null>(null)

/** What is asked for, else the scene chosen on the board, else the first. */
const source = computed(() => {
  const byId = (id: unknown): (typeof store.scenes)[number] | undefined => store.scenes.find(each => each.id === id)
  return byId(route.query.scene) ?? byId(desk.lookedAt) ?? store.scenes[0] ?? null
})
const scene = computed(() => source.value?.scene ?? null)
const shelf = computed(() => making.value || !scene.value)
watch(
  () => source.value?.id,
  () => {
    // many begin and end with nothing to be seen
    index.value = scene.value ? fullestFrame(scene.value) : 0
    opened.value = null
  },
  { immediate: true }
)
// font files that are dropped go to the scene that is open
watch(
  () => (shelf.value ? null : (source.value?.id ?? null)),
  id => {
    store.opened = id
  },
  { immediate: true }
)
onBeforeUnmount(() => {
  store.opened = null
})
watch(
  () => scene.value?.frames,
  frames => {
    if (frames && index.value >= frames) index.value = frames - 1
  }
)

const spec = computed(() => (source.value ? sources.specOf(source.value, { steps: [] }) : null))
/** Scenes of more pixels than this play at half their size. */
const PLAYS_WHOLE = 640 * 480
const clip = computed<ViewerClip | null>(() => {
  const [now, of, { width, height } = { width: 0, height: 0 }] = [spec.value, source.value, scene.value ?? undefined]
  if (!now || !of) return null
  const whole = viewerClip(now, of.name)
  if (now.kind === 'prepared' || width * height <= PLAYS_WHOLE) return whole
  const { pool } = workshop
  return {
    ...whole,
    preview: (i, view, signal) => pool.run('scenePreview', [now, i, view], { signal, priority: 'now' })
  }
})
const examination = computed(() => (source.value ? (sources.examinations.get(source.value.id) ?? null) : null))
const coverage = computed(() => (examination.value ? sayCoverage(examination.value.alpha.evidence) : ''))

/** What was found of the scene itself as it was laid out: letters that no face has, what shrank, what sticks out. */
const told = computed(() => (examination.value?.findings ?? []).filter(({ id }) => findingKind(id).ofTheFile))

/** Where elements lie in the frame shown, for the one that is moved by hand. */
const boxes = shallowRef<Record<string, [number, number, number, number]>>({})
watch(
  [() => scene.value && sceneFile(scene.value).stamp, index, opened, () => viewer.value?.playing],
  async (_now, _before, onCleanup) => {
    const now = scene.value
    if (!now || !opened.value || viewer.value?.playing) return
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    try {
      boxes.value = await workshop.pool.run('sceneBoxes', [plainScene(now), index.value], { signal: stop.signal })
    } catch (error) {
      if (!isAbort(error)) boxes.value = {}
    }
  },
  { immediate: true }
)
const held = computed(() => scene.value?.elements.find(({ id }) => id === opened.value) ?? null)
const tool = computed<Tool | null>(() => {
  const box = held.value && !held.value.locked && !viewer.value?.playing ? boxes.value[held.value.id] : null
  if (!box) return null
  return { kind: 'handle', points: [box.slice(0, 2) as Point, box.slice(2) as Point], sized: false, taken: false }
})

async function edit(label: string, change: (scene: Scene) => void): Promise<void> {
  if (source.value) await store.edit(source.value.id, label, change)
}

async function drawn(points: Point[], done: boolean): Promise<void> {
  const [element, box] = [held.value, held.value && boxes.value[held.value.id]]
  if (!done || !element || !box) return
  const [left, top] = [Math.min(...points.map(p => p[0])), Math.min(...points.map(p => p[1]))]
  const [dx, dy] = [left - Math.round(box[0]), top - Math.round(box[1])]
  if (dx !== 0 || dy !== 0) await edit('Move', now => shift(now, element.id, dx, dy))
}

const { place, move, menu, takeAway, editElement } = useElementActs({
  scene: computed(() => (shelf.value ? null : scene.value)),
  opened,
  index,
  edit
})

async function make(made: Scene): Promise<void> {
  const [id] = await store.add([made], 'Make a scene')
  making.value = false
  await router.replace(`/scenes?scene=${id}`)
}

async function fill(made: Scene[]): Promise<void> {
  await store.add(made, `Fill ${made.length} scenes from a table`)
  desk.message = `${made.length} scenes stand on the board, one for each row.`
}

async function spans(): Promise<void> {
  if (!source.value || !scene.value) return
  try {
    await sources.keepSpans(source.value, scene.value.spans)
    desk.message = `${scene.value.spans.length} spans stand on the board, each a row of its own.`
  } catch (error) {
    desk.message = sentenceOf(error)
  }
}

function save(): void {
  if (scene.value)
    download(`${scene.value.name}.json`, new Blob([sceneText(sceneAbroad(scene.value))], { type: 'application/json' }))
}
</script>

<template>
  <main class="scenes">
    <header class="place-head">
      <el-select
        v-if="source && !shelf"
        :model-value="source.id"
        class="chooser"
        aria-label="Scene"
        @update:model-value="(id: string) => router.replace(`/scenes?scene=${id}`)"
      >
        <el-option v-for="each in store.scenes" :key="each.id" :value="each.id" :label="each.name" />
      </el-select>
      <h1 :class="{ 'visually-hidden': source && !shelf }">
        {{ scene && !shelf ? `Scene: ${scene.name}` : 'Scenes' }}
      </h1>
      <span v-if="scene && !shelf" class="mono soft"
        >{{ scene.width }}×{{ scene.height }} · {{ rateFraction(scene.rate) }} f/s · {{ sayFrames(scene.frames) }} ·
        rendered at 16 bit, {{ addsLight(scene) ? 'premultiplied: it adds light' : 'straight' }}</span
      >
      <span class="spring" />
      <UndoButtons />
      <el-button v-if="scene && shelf" @click="making = false">Back to the scene</el-button>
      <el-button v-if="!shelf" @click="making = true">New scene…</el-button>
      <el-button @click="router.push('/')">Back to board</el-button>
    </header>
    <div v-if="shelf" class="scroll shelf-holder">
      <p v-if="!scene" class="intro soft">
        A scene is an animation that Pour renders itself, with nothing behind it. It stands on the board like any other
        source.
      </p>
      <StarterShelf @make="make" />
    </div>
    <div v-else-if="scene && source" class="place-body">
      <section class="order" aria-label="Running order">
        <AddElement :scene="scene" :own="source.id" @add="place" />
        <ol class="cards scroll">
          <SceneCard
            v-for="{ element, depth } in inOrderOf(scene.elements)"
            :key="element.id"
            :style="{ marginLeft: `${14 * depth}px` }"
            :scene="scene"
            :element="element"
            :index="index"
            :open="opened === element.id"
            @edit="(label, change) => editElement(element.id, label, change)"
            @open="opened = opened === element.id ? null : element.id"
            @move="by => move(element.id, by)"
            @remove="takeAway(element.id)"
            @contextmenu="menu($event, element)"
          >
            <ElementForm
              :element="element"
              :scene="scene"
              :groups="groupsFor(scene, element.id)"
              :seconds="lastsOf(scene)"
              @into="group => edit('Change the group', now => moveInto(now, element.id, group))"
              @edit="(label, change) => editElement(element.id, label, change)"
            />
          </SceneCard>
          <li v-if="scene.elements.length === 0" class="soft nothing">
            Nothing is in it yet. Add lettering, a shape or a path; each becomes a sentence here.
          </li>
        </ol>
      </section>
      <div class="place-middle">
        <FrameViewer
          ref="viewer"
          v-model:index="index"
          class="place-view"
          :clip="clip"
          :tool="tool"
          :width="scene.width"
          :height="scene.height"
          :frames="scene.frames"
          :rate="scene.rate"
          @draw="drawn"
          @tool-end="opened = null"
        />
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
          <FindingList
            v-if="told.length"
            class="told scroll"
            :findings="told"
            aria-label="What was found of the scene"
          />
        </section>
      </div>
      <SceneSide
        :scene="scene"
        :coverage="coverage"
        @edit="edit"
        @spans="spans"
        @fill="fill"
        @save="save"
        @faces="files => store.takeFaces(source!.id, files)"
      />
    </div>
  </main>
</template>

<style scoped>
.scenes {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.chooser {
  width: 220px;
}

.shelf-holder {
  flex: 1;
  min-height: 0;
}

.intro {
  max-width: 1040px;
  margin: 18px auto -6px;
  padding: 0 18px;
}

.told {
  margin-top: 8px;
  max-height: 74px;
  font-size: 12px;
}

.order {
  width: clamp(310px, 33vw, 420px);
  flex: none;
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--panel);
  border-right: 1px solid var(--line);
}

.cards {
  flex: 1;
  min-height: 0;
  margin: 0;
  padding: 0 12px 12px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  list-style: none;
}

.nothing {
  padding: 18px 4px;
}

.play {
  width: 64px;
}

.small {
  font-size: 12px;
}
</style>
