<script setup lang="ts">
/**
 * One delivery a row: what of the scene takes which column, what each row comes to at its fullest frame, those with
 * trouble first, and then a scene of each.
 */
import RowPreview from '~/components/scenes/RowPreview.vue'
import { calledOf } from '~/components/scenes/words'
import { useCarried } from '~/composables/useCarried'
import { fileOpen } from 'browser-fs-access'
import { produce } from 'immer'
import { computed, ref, shallowRef, watch } from 'vue'
import { useWorkshop } from '~/stores/workshop'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { sameJson } from '~~/core/base/canonical'
import { baseName } from '~~/core/base/files/file'
import { inOrder } from '~~/core/base/pool'
import { fewOf } from '~~/core/base/sentences'
import { sceneSpec } from '~~/core/draw/scene/as-file'
import { kindOf } from '~~/core/draw/scene/elements/kinds'
import type { Scene } from '~~/core/draw/scene/scene'
import {
  filledFrom,
  likelyColumn,
  matchColumn,
  numberIn,
  picturesAsked,
  slotsOf,
  type CarriedPicture,
  type Filled,
  type FilledPart,
  type Slot,
  type Table
} from '~~/core/draw/scene/tables'
import { Marks, type Columns } from '~~/core/draw/scene/values'

const { scene } = defineProps<{ scene: Scene }>()
const emit = defineEmits<{ match: [change: (scene: Scene) => void]; fill: [scenes: Scene[]] }>()
const table = defineModel<Table | null>({ required: true })
const { pool } = useWorkshop()
const { pictureIn } = useCarried()

const open = computed({ get: () => table.value !== null, set: now => !now && (table.value = null) })
/** The scene with what is matched here; it is kept once it is filled. */
const draft = shallowRef<Scene>(scene)
const naming = ref('')
const pictures = shallowRef<ReadonlyMap<string, CarriedPicture>>(new Map())
const wrong = ref('')
watch(
  table,
  now => {
    if (!now) return
    wrong.value = ''
    pictures.value = new Map()
    naming.value = now.columns[0] ?? ''
    draft.value = produce(scene, next => {
      // what has no column yet, or one that the table lacks, takes the one that is called like it
      for (const slot of slotsOf(scene)) {
        if (slot.column !== null && now.columns.includes(slot.column)) continue
        const element = scene.elements.find(({ id }) => id === slot.id)!
        const column = likelyColumn(element, slot.part, now.columns)
        if (column !== null) matchColumn(next, { ...slot, column })
      }
    })
  },
  { immediate: true }
)

const PARTS: Record<FilledPart, string> = {
  words: 'words',
  number: 'goes to',
  colour: 'colour',
  picture: 'picture'
}
/** Whether a column holds a number anywhere: how it is lettered can then be chosen. */
const numbered = (column: string | null): boolean =>
  column !== null && !!table.value?.rows.some(row => numberIn(row[column] ?? '') !== null)
const slots = computed(() =>
  slotsOf(draft.value).map(slot => {
    const element = draft.value.elements.find(({ id }) => id === slot.id)!
    const words = slot.part === 'words' ? kindOf(element.look).words?.of(element.look) : undefined
    return {
      slot,
      name: element.name || calledOf(element),
      part: PARTS[slot.part],
      now: words?.replaceAll('\n', ' / ') ?? '',
      figures: slot.part === 'words' && numbered(slot.column) ? (element.columns?.figures ?? null) : undefined
    }
  })
)
const choices = computed(() => {
  const all = table.value?.columns ?? []
  const lost = slotsOf(draft.value).flatMap(({ column }) => (column !== null && !all.includes(column) ? [column] : []))
  return [...all, ...new Set(lost)]
})
function match(slot: Slot, column: string): void {
  draft.value = produce(draft.value, next => matchColumn(next, { ...slot, column: column || null }))
}

/** How a column's numbers are lettered: as they stand, or by these marks. */
const AS_IT_STANDS = ''
function setFigures(id: string, change: Partial<NonNullable<Columns['figures']>> | null): void {
  draft.value = produce(draft.value, next => {
    const element = next.elements.find(other => other.id === id)!
    const { figures, ...others } = element.columns ?? {}
    if (change) element.columns = { ...others, figures: { decimals: 0, marks: '1,000.5', ...figures, ...change } }
    else if (Object.keys(others).length) element.columns = others
    else delete element.columns
  })
}

const made = computed<{ filled: Filled | null; why: string }>(() => {
  if (!table.value) return { filled: null, why: '' }
  try {
    return {
      filled: filledFrom(draft.value, table.value, { names: naming.value || undefined, pictures: pictures.value }),
      why: ''
    }
  } catch (error) {
    return { filled: null, why: sentenceOf(error) }
  }
})
const asked = computed(() => (table.value ? picturesAsked(draft.value, table.value) : []))

/** What was found of each row's scene as it was laid out, by its place in the table; null until it was. */
const told = ref<(string[] | null)[]>([])
watch(
  () => made.value.filled,
  async (filled, _before, onCleanup) => {
    const rows = filled?.rows ?? []
    told.value = rows.map(() => null)
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    const look = async (of: Scene): Promise<string[]> => {
      // a copy: what it is as a file is let go with it, for there may be thousands
      const { findings } = await pool.run('describe', [sceneSpec({ ...of })], { signal: stop.signal })
      // how much of a mode alpha holds depends on what it shows, and is told of the scene on the board
      return findings.filter(({ id }) => id !== 'blend-unheld').map(({ sentence }) => sentence)
    }
    try {
      const usual = new Set(rows.length ? await look(draft.value) : [])
      await inOrder(
        rows.length,
        2 * pool.size,
        n =>
          look(rows[n]!.scene).catch((error: unknown) => {
            if (isAbort(error)) throw error
            return [sentenceOf(error)]
          }),
        (said, n) => {
          if (!stop.signal.aborted) told.value[n] = said.filter(sentence => !usual.has(sentence))
        }
      )
    } catch (error) {
      if (!isAbort(error)) wrong.value = sentenceOf(error)
    }
  },
  { immediate: true }
)
const looked = computed(() => told.value.filter(each => each !== null).length)
const rows = computed(() =>
  (made.value.filled?.rows ?? [])
    .map(({ scene: of, wrong: unfilled }, n) => ({ n, scene: of, told: [...unfilled, ...(told.value[n] ?? [])] }))
    .sort((a, b) => Number(b.told.length > 0) - Number(a.told.length > 0) || a.n - b.n)
)
const troubled = computed(() => rows.value.filter(row => row.told.length).length)
const sum = computed(() => {
  const all = rows.value.length
  if (looked.value < all) return `Looking at the rows: ${looked.value} of ${all}`
  const rest = all === 1 ? 'It is as it should be' : `All ${all} rows are as they should be`
  return troubled.value ? `${troubled.value} of ${all} rows have something to look at` : rest
})

/** Sentences that are told at once. */
const MOST_SAID = 4

async function addPictures(): Promise<void> {
  wrong.value = ''
  try {
    const files = await fileOpen({ description: 'Pictures that the table names', multiple: true })
    const next = new Map(pictures.value)
    const said: string[] = []
    for (const file of files) {
      // rows may name them by the folders they lie in
      const names = asked.value.filter(name => baseName(name) === file.name)
      if (!names.length) said.push(`No row names ${file.name}.`)
      else
        await pictureIn(file).then(
          found => {
            for (const name of names) next.set(name, found.picture)
            said.push(...found.said)
          },
          (error: unknown) => void said.push(sentenceOf(error))
        )
    }
    pictures.value = next
    wrong.value = fewOf(said, MOST_SAID)
  } catch (error) {
    if (!isAbort(error)) wrong.value = sentenceOf(error)
  }
}

function fill(): void {
  const { filled } = made.value
  if (!filled) return
  const { elements } = draft.value
  if (sameJson(elements) !== sameJson(scene.elements))
    emit('match', now => {
      for (const element of now.elements) {
        const matched = elements.find(({ id }) => id === element.id)
        if (!matched) continue
        const { words } = kindOf(matched.look)
        if (words) words.takeColumn(element.look, words.column(matched.look))
        if (matched.columns) element.columns = matched.columns
        else delete element.columns
      }
    })
  emit(
    'fill',
    filled.rows.map(row => row.scene)
  )
  table.value = null
}
</script>

<template>
  <el-dialog v-model="open" :title="`One delivery a row: ${table?.file ?? ''}`" width="1080px" align-center>
    <div v-if="table" class="two">
      <section class="matches scroll" aria-label="What takes which column">
        <label>
          <span>Each is called by</span>
          <select v-model="naming">
            <option v-for="column in table.columns" :key="column" :value="column">{{ column }}</option>
          </select>
        </label>
        <template v-for="{ slot, name, part, now, figures } in slots" :key="`${slot.id} ${slot.part}`">
          <label :title="now">
            <span
              >{{ name }} <i class="soft">{{ part }}</i></span
            >
            <select
              :value="slot.column ?? ''"
              :aria-label="`${name}, ${part}`"
              @change="match(slot, ($event.target as HTMLSelectElement).value)"
            >
              <option value="">stays as it is</option>
              <option v-for="column in choices" :key="column" :value="column">
                {{ column }}{{ table.columns.includes(column) ? '' : ' (not in the table)' }}
              </option>
            </select>
          </label>
          <label v-if="figures !== undefined" class="figures">
            <span class="soft">its numbers</span>
            <span class="pair">
              <select
                :value="figures?.marks ?? AS_IT_STANDS"
                :aria-label="`${name}, numbers`"
                @change="
                  (event: Event) => {
                    const marks = Marks.safeParse((event.target as HTMLSelectElement).value)
                    setFigures(slot.id, marks.success ? { marks: marks.data } : null)
                  }
                "
              >
                <option :value="AS_IT_STANDS">as they stand</option>
                <option v-for="marks in Marks.options" :key="marks" :value="marks">{{ marks }}</option>
              </select>
              <input
                v-if="figures"
                type="number"
                min="0"
                max="6"
                :value="figures.decimals"
                :aria-label="`${name}, decimals`"
                title="Decimals"
                @change="
                  setFigures(slot.id, {
                    decimals: Math.min(
                      6,
                      Math.max(0, Math.round(Number(($event.target as HTMLInputElement).value) || 0))
                    )
                  })
                "
              />
            </span>
          </label>
        </template>
        <p v-if="asked.length" class="soft">
          {{ pictures.size }} of {{ asked.length }} pictures are here.
          <button class="link" @click="addPictures">Add pictures…</button>
        </p>
      </section>
      <section class="sheet">
        <p v-if="made.why" class="wash-brick" role="alert">{{ made.why }}</p>
        <p v-if="wrong" class="wash-brick" role="alert">{{ wrong }}</p>
        <p v-for="sentence in made.filled?.apart ?? []" :key="sentence" class="wash-ochre">{{ sentence }}</p>
        <ol class="rows scroll" aria-label="Rows">
          <RowPreview v-for="row in rows" :key="row.n" :scene="row.scene" :told="row.told" />
        </ol>
      </section>
    </div>
    <template #footer>
      <span v-if="rows.length" class="sum" :class="{ ochre: troubled && looked === rows.length }" role="status">{{
        sum
      }}</span>
      <el-button @click="open = false">Leave it</el-button>
      <el-button type="primary" :disabled="!made.filled" @click="fill">{{
        rows.length === 1 ? 'Make 1 scene' : `Make ${rows.length} scenes`
      }}</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 330px 1fr;
  gap: 18px;
  height: min(560px, 66vh);
}

.matches {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}

.matches label {
  display: grid;
  grid-template-columns: 1fr 160px;
  gap: 8px;
  align-items: center;
}

.matches label > span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.figures > span:first-child {
  padding-left: 14px;
}

.pair {
  display: flex;
  gap: 4px;
}

i {
  font-style: normal;
}

select,
input {
  font: inherit;
  width: 100%;
  min-width: 0;
  padding: 3px 5px;
  color: var(--ink);
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 3px;
}

.pair input {
  width: 52px;
  flex: none;
}

.sheet {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}

.rows {
  flex: 1;
  min-height: 0;
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  grid-template-columns: repeat(3, 198px);
  gap: 12px;
  align-content: start;
}

.sum {
  float: left;
  line-height: 32px;
}

.ochre {
  color: var(--ochre);
}
</style>
