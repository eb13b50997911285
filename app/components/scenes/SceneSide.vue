<script setup lang="ts">
/** What a scene's render will be, spans in it, and a table that fills it. */
import { sayFrames } from '~/composables/say'
import { vHeld } from '~/composables/held'
import TableDialog from '~/components/scenes/TableDialog.vue'
import { computed, ref, shallowRef, watch } from 'vue'
import { fileOpen } from 'browser-fs-access'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { parseRate, rateFraction } from '~~/core/base/rate'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { sceneFile } from '~~/core/draw/scene/as-file'
import { fieldsOf, readTable, slotsOf, type Table } from '~~/core/draw/scene/tables'
import { removeFace } from '~~/core/draw/scene/own-faces'
import { relaid } from '~~/core/draw/scene/relaid'
import type { Scene } from '~~/core/draw/scene/scene'
import { lastsOf } from '~~/core/draw/scene/timing'
import type { HexColour } from '~~/core/base/colour'

const { scene, coverage } = defineProps<{ scene: Scene; coverage: string }>()
const emit = defineEmits<{
  edit: [label: string, change: (scene: Scene) => void]
  spans: []
  fill: [scenes: Scene[]]
  save: []
  faces: [files: { path: string; file: File }[]]
}>()
const workshop = useWorkshop()
const sources = useSources()
const wrong = ref('')
const REST = 400
const columns = computed(() => fieldsOf(scene))
const fillable = computed(() => slotsOf(scene).length > 0)
/** Whether it loops without a seam; null until its ends have been rendered. */
const loops = ref<boolean | null>(null)
watch(
  () => [sceneFile(scene).stamp, ...sources.shownKey(scene), !!sources.sceneAsSpec(scene)].join(' '),
  async (_now, _before, onCleanup) => {
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    loops.value = null
    // a sentence that is typed changes often; its ends wait until the hand has rested
    await new Promise(resolve => setTimeout(resolve, REST))
    if (stop.signal.aborted) return
    try {
      const spec = sources.sceneAsSpec(scene)
      if (spec) loops.value = await workshop.pool.run('sceneCloses', [spec], { signal: stop.signal })
    } catch (error) {
      // what cannot be rendered is said in the viewer
      if (!isAbort(error)) loops.value = null
    }
  },
  { immediate: true }
)

function edit(label: string, change: (scene: Scene) => void): void {
  wrong.value = ''
  emit('edit', label, change)
}

const words = (event: Event): string => (event.target as HTMLInputElement).value
const whole = (event: Event, least: number, most: number): number =>
  Math.min(most, Math.max(least, Math.round(Number(words(event)) || least)))

/** Another size lays everything out again by its corner. */
function resize(width: number, height: number): void {
  edit('Change the size', now => void Object.assign(now, relaid(now, width, height)))
}

function setRate(event: Event): void {
  const rate = parseRate(words(event))
  if (!rate) {
    wrong.value = 'Give a rate as 25, 23.976 or 24000/1001.'
    return
  }
  edit('Change the rate', now => {
    const seconds = lastsOf(now)
    now.rate = rate
    now.frames = Math.max(1, Math.round((seconds * rate[0]) / rate[1]))
  })
}

function setSeconds(event: Event): void {
  const seconds = Number(words(event))
  if (seconds > 0)
    edit('Change the length', now => {
      now.frames = Math.min(20_000, Math.max(1, Math.round((seconds * now.rate[0]) / now.rate[1])))
    })
}

/** The table that is being matched to the scene. */
const table = shallowRef<Table | null>(null)
async function fill(): Promise<void> {
  wrong.value = ''
  try {
    const file = await fileOpen({ extensions: ['.csv', '.tsv', '.txt'], description: 'A table' })
    table.value = readTable(await file.text(), file.name)
  } catch (error) {
    if (!isAbort(error)) wrong.value = sentenceOf(error)
  }
}
async function addFaces(): Promise<void> {
  try {
    const files = await fileOpen({ extensions: ['.ttf', '.woff'], description: 'Fonts', multiple: true })
    emit(
      'faces',
      files.map(file => ({ path: file.name, file }))
    )
  } catch (error) {
    if (!isAbort(error)) wrong.value = sentenceOf(error)
  }
}
</script>

<template>
  <aside class="place-side scroll" aria-label="The render">
    <section>
      <h2>The render</h2>
      <dl>
        <dt>Called</dt>
        <dd>
          <input
            v-held="scene.name"
            maxlength="80"
            aria-label="Name of the scene"
            @change="e => edit('Rename the scene', now => void (now.name = words(e).trim() || now.name))"
          />
        </dd>
        <dt>Size</dt>
        <dd class="pair">
          <input
            type="number"
            min="1"
            max="8192"
            v-held="scene.width"
            aria-label="Width"
            @change="e => resize(whole(e, 1, 8192), scene.height)"
          />
          ×
          <input
            type="number"
            min="1"
            max="8192"
            v-held="scene.height"
            aria-label="Height"
            @change="e => resize(scene.width, whole(e, 1, 8192))"
          />
        </dd>
        <dt>Rate</dt>
        <dd class="pair"><input v-held="rateFraction(scene.rate)" aria-label="Rate" @change="setRate" /> f/s</dd>
        <dt>Length</dt>
        <dd class="pair">
          <input
            type="number"
            min="0.04"
            step="0.1"
            v-held="Math.round(lastsOf(scene) * 1000) / 1000"
            aria-label="Seconds"
            @change="setSeconds"
          />
          s,
          {{ sayFrames(scene.frames) }}
        </dd>
        <dt>Backdrop</dt>
        <dd>
          <label class="tick"
            ><input
              type="checkbox"
              :checked="scene.backdrop !== null"
              @change="edit('Change the backdrop', now => void (now.backdrop = now.backdrop ? null : '#ffffff'))"
            />
            {{ scene.backdrop ? 'a colour' : 'none' }}</label
          >
          <input
            v-if="scene.backdrop"
            type="color"
            :value="scene.backdrop"
            aria-label="Backdrop colour"
            @change="e => edit('Change the backdrop', now => void (now.backdrop = words(e) as HexColour))"
          />
        </dd>
        <dt>Motion blur</dt>
        <dd class="pair">
          <input
            type="number"
            min="1"
            max="64"
            v-held="scene.blur.moments"
            aria-label="Moments of a frame"
            title="How many moments of each frame are averaged; 1 is no motion blur"
            @change="e => edit('Change motion blur', now => void (now.blur.moments = whole(e, 1, 64)))"
          />
          moments a frame
        </dd>
        <dt>Open for</dt>
        <dd class="pair">
          <input
            type="number"
            min="0"
            max="1"
            step="0.1"
            v-held="scene.blur.open"
            aria-label="Open share"
            title="Share of each frame's time that the shutter is open"
            @change="
              e => edit('Change motion blur', now => void (now.blur.open = Math.min(1, Math.max(0, Number(words(e))))))
            "
          />
          of it, {{ Math.round(scene.blur.open * 360) }}°
        </dd>
        <template v-if="scene.blur.moments > 1">
          <dt>Open</dt>
          <dd>
            <label class="tick"
              ><input
                type="checkbox"
                :checked="scene.blur.centred ?? false"
                title="Off: from the frame's own time on. On: as long before it as after it."
                @change="edit('Change motion blur', now => void (now.blur.centred = !now.blur.centred))"
              />
              {{ scene.blur.centred ? 'about its time' : 'from its time on' }}</label
            >
          </dd>
        </template>
      </dl>
      <p v-if="wrong" class="wash-brick" role="alert">{{ wrong }}</p>
      <p v-if="scene.backdrop" class="wash-ochre">Every pixel of it will be solid: nothing shows through a backdrop.</p>
      <p v-if="loops !== null" class="soft">
        {{
          loops
            ? 'It ends as it begins: it loops without a seam.'
            : 'Its end is not its beginning, so it does not loop without a seam.'
        }}
      </p>
      <p v-if="coverage" class="mono soft small">{{ coverage }}</p>
    </section>
    <section>
      <h2>Spans</h2>
      <ul v-if="scene.spans.length" class="spans">
        <li v-for="(span, n) in scene.spans" :key="n">
          <input
            v-held="span.name"
            maxlength="60"
            aria-label="Name of the span"
            @change="e => edit('Rename a span', now => void (now.spans[n]!.name = words(e).trim() || span.name))"
          />
          <input
            type="number"
            min="1"
            :max="scene.frames"
            v-held="span.from"
            aria-label="First frame"
            @change="e => edit('Change a span', now => void (now.spans[n]!.from = whole(e, 1, span.to)))"
          />
          <input
            type="number"
            :min="span.from"
            :max="scene.frames"
            v-held="span.to"
            aria-label="Last frame"
            @change="e => edit('Change a span', now => void (now.spans[n]!.to = whole(e, span.from, scene.frames)))"
          />
          <button
            class="link"
            :aria-label="`Remove ${span.name}`"
            @click="edit('Remove a span', now => void now.spans.splice(n, 1))"
          >
            ×
          </button>
        </li>
      </ul>
      <p v-else class="soft">A named stretch of frames can be poured by itself.</p>
      <p>
        <button
          class="link"
          @click="
            edit(
              'Add a span',
              now => void now.spans.push({ name: `part ${now.spans.length + 1}`, from: 1, to: now.frames })
            )
          "
        >
          Add a span
        </button>
        <template v-if="scene.spans.length">
          · <button class="link" @click="emit('spans')">Give each a row on the board</button></template
        >
      </p>
    </section>
    <section>
      <h2>One delivery a row</h2>
      <p class="soft">
        A table whose first row names its columns makes one scene of each row: words, numbers, colours and pictures.
        <template v-if="columns.length"
          >Its columns: <span class="mono">{{ columns.join(', ') }}</span>.</template
        >
      </p>
      <el-button size="small" :disabled="!fillable" @click="fill">Fill from a table…</el-button>
    </section>
    <section>
      <h2>Type faces</h2>
      <ul v-if="scene.faces?.length" class="faces">
        <li v-for="face in scene.faces" :key="face.id">
          {{ face.name }}
          <button
            class="link"
            :aria-label="`Remove ${face.name}`"
            @click="edit('Remove a type face', now => removeFace(now, face.id))"
          >
            ×
          </button>
        </li>
      </ul>
      <p v-else class="soft">
        Those that ship with Pour. Drop a font file here to use your own; it is saved with the scene.
      </p>
      <el-button size="small" @click="addFaces">Add a font file…</el-button>
    </section>
    <section>
      <h2>As a file</h2>
      <p class="soft">The scene as JSON; dropped on Pour it comes back, and the command line renders it.</p>
      <el-button size="small" @click="emit('save')">Save the scene</el-button>
    </section>
    <TableDialog
      v-model="table"
      :scene="scene"
      @match="change => edit('Match columns', change)"
      @fill="scenes => emit('fill', scenes)"
    />
  </aside>
</template>

<style scoped>
section {
  display: flex;
  flex-direction: column;
  gap: 6px;
  align-items: flex-start;
}

dl {
  display: grid;
  grid-template-columns: 76px 1fr;
  gap: 6px 8px;
  align-items: center;
  margin: 0;
  width: 100%;
}

dt {
  color: var(--soft);
}

dd {
  margin: 0;
  min-width: 0;
}

.faces {
  margin: 0;
  padding: 0;
  list-style: none;
}

.pair,
.tick {
  display: flex;
  align-items: center;
  gap: 5px;
}

input:not([type='checkbox'], [type='color']) {
  font: inherit;
  color: var(--ink);
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 3px 5px;
  width: 100%;
  min-width: 0;
}

.pair input {
  flex: 0 1 70px;
}

input[type='color'] {
  width: 60px;
  height: 24px;
  padding: 0;
}

.spans {
  list-style: none;
  padding: 0;
  margin: 0;
  display: flex;
  flex-direction: column;
  gap: 4px;
}

.spans li {
  display: grid;
  grid-template-columns: 1fr 56px 56px auto;
  gap: 4px;
}

.small {
  font-size: 12px;
}
</style>
