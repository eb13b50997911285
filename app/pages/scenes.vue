<script setup lang="ts">
/** The place of scenes: a running order in sentences, its picture, and what its render will be. */
import AddElement from '~/components/scenes/AddElement.vue'
import ElementForm from '~/components/scenes/ElementForm.vue'
import SceneCard from '~/components/scenes/SceneCard.vue'
import SceneSide from '~/components/scenes/SceneSide.vue'
import SceneStage from '~/components/scenes/SceneStage.vue'
import StarterShelf from '~/components/scenes/StarterShelf.vue'
import UndoButtons from '~/components/shell/UndoButtons.vue'
import { sayCoverage, sayFrames } from '~/composables/say'
import { useElementActs } from '~/composables/useElementActs'
import { useSceneHands } from '~/composables/useSceneHands'
import { download } from '~/composables/useDownload'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDesk } from '~/stores/desk'
import { useScenes } from '~/stores/scenes'
import { useSources } from '~/stores/sources'
import { sentenceOf } from '~~/core/base/errors'
import { rateFraction } from '~~/core/base/rate'
import { sceneAbroad, sceneText } from '~~/core/draw/scene/as-file'
import { kindOf } from '~~/core/draw/scene/elements/kinds'
import { groupsFor, moveInto } from '~~/core/draw/scene/groups'
import { fullestFrame, inOrderOf } from '~~/core/draw/scene/order'
import { addsLight, type Element, type Scene } from '~~/core/draw/scene/scene'
import { lastsOf } from '~~/core/draw/scene/timing'

const route = useRoute()
const router = useRouter()
const sources = useSources()
const store = useScenes()
const desk = useDesk()

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

const examination = computed(() => (source.value ? (sources.examinations.get(source.value.id) ?? null) : null))
const coverage = computed(() => (examination.value ? sayCoverage(examination.value.alpha.evidence) : ''))

async function edit(label: string, change: (scene: Scene) => void): Promise<void> {
  if (source.value) await store.edit(source.value.id, label, change)
}

const stage = ref<InstanceType<typeof SceneStage> | null>(null)
const hands = useSceneHands({
  ...{ scene: computed(() => (shelf.value ? null : scene.value)), opened, index, edit },
  playing: () => stage.value?.playing ?? false
})

// what was tried of one scene is not shown of another
watch(
  () => source.value?.id,
  () => hands.attempt(null)
)

/** Words as they are typed are in the picture at once. */
function typing(id: string, words: string | null): void {
  if (words === null) return hands.letGo()
  hands.attempt(now => {
    const look = now.elements.find(each => each.id === id)?.look
    if (look) kindOf(look).words?.set(look, words)
  })
}

/** An edit of one element by a form: seen at once. */
const keep = (id: string, label: string, change: (element: Element) => void): Promise<void> =>
  hands.keep(label, now => {
    const element = now.elements.find(each => each.id === id)
    if (element) change(element)
  })

const { place, move, menu, takeAway } = useElementActs({
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
            :chosen="hands.chosen.value.includes(element.id)"
            @edit="(label, change) => keep(element.id, label, change)"
            @typing="(words: string | null) => typing(element.id, words)"
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
              @edit="(label, change) => keep(element.id, label, change)"
            />
          </SceneCard>
          <li v-if="scene.elements.length === 0" class="soft nothing">
            Nothing is in it yet. Add lettering, a shape or a path; each becomes a sentence here.
          </li>
        </ol>
      </section>
      <SceneStage
        ref="stage"
        v-model:index="index"
        :source="source"
        :scene="scene"
        :examination="examination"
        :hands="hands"
        @edit="edit"
      />
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
</style>
