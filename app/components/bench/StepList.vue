<script setup lang="ts">
/** The preparation of a source: its steps in order. */
import StepForm from '~/components/bench/StepForm.vue'
import { useActs } from '~/composables/useActs'
import { useCopies } from '~/composables/useCopies'
import { useSteps } from '~/composables/useSteps'
import { fileOpen } from 'browser-fs-access'
import { ElMessageBox } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { download } from '~/composables/useDownload'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import type { JobSource } from '~~/core/job/job'
import { stepKindById, stepKinds } from '~~/core/prepare/kinds'
import { newStep, preparationProblems, readPreparation, type Preparation, type Step } from '~~/core/prepare/preparation'
import { GROUPS } from '~~/core/prepare/step'

const { source, busy = null } = defineProps<{ source: JobSource; busy?: string | null }>()
const chosen = defineModel<string | null>('chosen', { required: true })
const emit = defineEmits<{
  live: [steps: Step[] | null]
  tool: [step: Step, field: string, kind: string]
  find: [step: Step, what: 'content' | 'screen', field: string]
}>()
const jobs = useJob()
const sources = useSources()
const desk = useDesk()
const edits = useSteps()
const steps = computed(() => source.steps)
const problems = computed(() => preparationProblems(sources.foundFactsOf(source), steps.value))
const saved = computed(() => jobs.job.preparations)
const groups = GROUPS.map(name => ({ name, kinds: stepKinds.filter(kind => kind.group === name) }))
watch(
  () => source.id,
  () => (chosen.value = null)
)

async function change(label: string, next: Step[]): Promise<void> {
  emit('live', null)
  await edits.edit(source.id, label, () => next)
}

async function add(kindId: string): Promise<void> {
  const kind = stepKindById(kindId)
  const [step] = await insert([newStep(crypto.randomUUID(), kind)], `Add ${kind.name}`)
  // a key begins with the screen of this very plate
  const found = Object.entries(kind.fields).find(([, field]) => field.type === 'colour' && field.found)
  if (found && step) emit('find', step, 'screen', found[0])
}

const nameOf = (step: Step): string => stepKindById(step.kind).name
const withStep = (id: string, changes: Partial<Step>): Step[] =>
  steps.value.map(step => (step.id === id ? { ...step, ...changes } : step))

/** Steps with ids of their own, after the step that is open, else at the end. */
async function insert(given: readonly Step[], label: string): Promise<Step[]> {
  const fresh = given.map(step => ({ ...step, id: crypto.randomUUID() }))
  const at = steps.value.findIndex(s => s.id === chosen.value)
  const next = [...steps.value]
  next.splice(at < 0 ? next.length : at + 1, 0, ...fresh)
  chosen.value = fresh.at(-1)?.id ?? chosen.value
  await change(label, next)
  return fresh
}

const open = (): Step | undefined => steps.value.find(({ id }) => id === chosen.value)

const asText = (name: string, of: readonly Step[]): string =>
  `${JSON.stringify({ pour: 'preparation', version: 1, name, steps: [...of] } satisfies Preparation, null, 2)}\n`

/** What is open, else all steps. */
const copies = useCopies({
  copy() {
    const step = open()
    if (!step && !steps.value.length) return null
    return asText(step ? nameOf(step) : source.name, step ? [step] : steps.value)
  },
  paste: text => insert(readPreparation(text).steps, 'Paste steps'),
  duplicate() {
    const step = open()
    return step && insert([step], `Duplicate ${nameOf(step)}`)
  },
  remove() {
    const step = open()
    return step && remove(step)
  }
})
const turn = (step: Step, on: boolean): Promise<void> =>
  change(on ? `${nameOf(step)} on` : `${nameOf(step)} off`, withStep(step.id, { on }))

const acts = useActs()

function menu(event: MouseEvent, step: Step): void {
  const at = steps.value.indexOf(step)
  chosen.value = step.id
  acts.open(event, [
    { label: step.on ? 'Turn off' : 'Turn on', run: () => turn(step, !step.on) },
    { label: 'Duplicate', key: 'Ctrl D', apart: true, run: () => insert([step], `Duplicate ${nameOf(step)}`) },
    { label: 'Copy', key: 'Ctrl C', run: copies.copy },
    { label: 'Paste after it', key: 'Ctrl V', run: copies.paste },
    { label: 'Up', key: 'Alt ↑', off: at === 0, apart: true, run: () => shift(step, -1) },
    { label: 'Down', key: 'Alt ↓', off: at === steps.value.length - 1, run: () => shift(step, 1) },
    { label: 'Remove', key: 'Delete', apart: true, run: () => remove(step) }
  ])
}

async function shift(step: Step, by: number): Promise<void> {
  const from = steps.value.indexOf(step)
  const to = Math.max(0, Math.min(steps.value.length - 1, from + by))
  if (from < 0 || to === from) return
  const next = steps.value.filter(s => s !== step)
  next.splice(to, 0, step)
  await change(`Move ${nameOf(step)}`, next)
}

async function remove(step: Step): Promise<void> {
  if (chosen.value === step.id) chosen.value = null
  await change(
    `Remove ${nameOf(step)}`,
    steps.value.filter(s => s !== step)
  )
}

/* Dragging: the row is set down before the one it is dropped on. */
const dragged = ref<string | null>(null)
const over = ref<string | null>(null)

async function drop(target: Step): Promise<void> {
  const step = steps.value.find(s => s.id === dragged.value)
  dragged.value = null
  over.value = null
  if (step && step !== target) await shift(step, steps.value.indexOf(target) - steps.value.indexOf(step))
}

function key(event: KeyboardEvent, step: Step): void {
  if (event.altKey && (event.key === 'ArrowUp' || event.key === 'ArrowDown'))
    void shift(step, event.key === 'ArrowUp' ? -1 : 1)
  else if (event.key === 'Delete') void remove(step)
  else return
  event.preventDefault()
  event.stopPropagation()
}

async function more(command: string): Promise<void> {
  const own = (): Step[] => steps.value.map(step => ({ ...step, id: crypto.randomUUID() }))
  if (command === 'save') {
    const answer = await ElMessageBox.prompt('Name of the preparation', 'Keep this preparation', {
      inputValue: source.name,
      inputPattern: /\S/,
      confirmButtonText: 'Keep',
      cancelButtonText: 'Cancel'
    }).catch(() => null)
    if (!answer) return
    const kept: Preparation = { pour: 'preparation', version: 1, name: answer.value.trim().slice(0, 80), steps: own() }
    await jobs.edit(
      'Keep a preparation',
      draft => void (draft.preparations = [...draft.preparations.filter(p => p.name !== kept.name), kept])
    )
    desk.message = `Kept as "${kept.name}".`
  } else if (command === 'export') {
    const text = asText(source.name, own())
    download(`${source.name}.preparation.json`, new Blob([text], { type: 'application/json' }))
  } else if (command === 'import') {
    try {
      const file = await fileOpen({
        description: 'Preparation',
        extensions: ['.json'],
        mimeTypes: ['application/json'],
        id: 'pour-preparation'
      })
      await use(readPreparation(await file.text()))
    } catch (error) {
      if (!isAbort(error)) desk.message = sentenceOf(error)
    }
  } else if (command.startsWith('use ')) await use(saved.value.find(p => p.name === command.slice(4))!)
  else if (command.startsWith('copy ')) {
    const to = command.slice(5)
    await edits.edit(to, 'Copy the preparation', own)
    desk.message = `${jobs.job.sources[to]?.name ?? ''} is prepared the same way now.`
  } else if (command === 'clear') await change('Clear the preparation', [])
}

async function use(preparation: Preparation): Promise<void> {
  const fresh = preparation.steps.map(step => ({ ...step, id: crypto.randomUUID() }))
  await change(`Use ${preparation.name}`, [...steps.value, ...fresh])
}
</script>

<template>
  <aside class="steps" aria-label="Preparation">
    <header>
      <h2>Preparation</h2>
      <span class="spring" />
      <el-dropdown trigger="click" placement="bottom-start" @command="add">
        <el-button size="small">Add step…</el-button>
        <template #dropdown>
          <el-dropdown-menu class="kinds">
            <div v-for="group in groups" :key="group.name" class="group" role="presentation">
              <p class="soft">{{ group.name }}</p>
              <el-dropdown-item v-for="kind in group.kinds" :key="kind.id" :command="kind.id" :title="kind.help">{{
                kind.name
              }}</el-dropdown-item>
            </div>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <el-dropdown trigger="click" @command="more">
        <el-button size="small" aria-label="More for the preparation">⋯</el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item command="save" :disabled="!steps.length">Keep under a name…</el-dropdown-item>
            <el-dropdown-item v-for="p in saved" :key="p.name" :command="`use ${p.name}`"
              >Add steps of “{{ p.name }}”</el-dropdown-item
            >
            <el-dropdown-item
              v-for="other in jobs.sources.filter(s => s.id !== source.id)"
              :key="other.id"
              :disabled="!steps.length"
              :command="`copy ${other.id}`"
              >Copy to {{ other.name }}</el-dropdown-item
            >
            <el-dropdown-item command="export" divided :disabled="!steps.length">Save as file</el-dropdown-item>
            <el-dropdown-item command="import">Add steps from file…</el-dropdown-item>
            <el-dropdown-item command="clear" divided :disabled="!steps.length">Remove all steps</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
    </header>
    <div class="scroll list">
      <p v-if="!steps.length" class="soft none">
        Poured as it was found. A step pulls, cleans, crops or times it; the files brought in stay untouched.
      </p>
      <ol>
        <li
          v-for="(step, n) in steps"
          :key="step.id"
          :class="{ open: chosen === step.id, off: !step.on, over: over === step.id && dragged !== step.id }"
          :data-step="step.kind"
          draggable="true"
          @dragstart="dragged = step.id"
          @dragover.prevent="over = step.id"
          @dragend="dragged = over = null"
          @drop.stop.prevent="drop(step)"
          @contextmenu="menu($event, step)"
        >
          <div class="row">
            <button
              class="plain name"
              :aria-expanded="chosen === step.id"
              title="Alt ↑ ↓ moves it, Delete removes it"
              @click="chosen = chosen === step.id ? null : step.id"
              @keydown="key($event, step)"
            >
              <span class="mono soft">{{ n + 1 }}</span> {{ nameOf(step) }}
            </button>
            <el-switch
              size="small"
              :model-value="step.on"
              :aria-label="`${nameOf(step)} on`"
              @change="value => turn(step, Boolean(value))"
            />
            <button
              class="plain act soft"
              :aria-label="`Move ${nameOf(step)} up`"
              title="Up (Alt ↑)"
              :disabled="n === 0"
              @click="shift(step, -1)"
            >
              ↑
            </button>
            <button
              class="plain act soft"
              :aria-label="`Move ${nameOf(step)} down`"
              title="Down (Alt ↓)"
              :disabled="n === steps.length - 1"
              @click="shift(step, 1)"
            >
              ↓
            </button>
            <button
              class="plain act soft"
              :aria-label="`Remove ${nameOf(step)}`"
              title="Remove (Delete)"
              @click="remove(step)"
            >
              ×
            </button>
          </div>
          <p v-if="step.on && problems.has(step.id)" class="problem">{{ problems.get(step.id) }}</p>
          <StepForm
            v-if="chosen === step.id"
            :step="step"
            :source-id="source.id"
            :busy="busy"
            draggable="true"
            @dragstart.stop.prevent
            @live="settings => emit('live', withStep(step.id, { settings }))"
            @set="settings => change(`Set ${nameOf(step)}`, withStep(step.id, { settings }))"
            @tool="(field, kind) => emit('tool', step, field, kind)"
            @find="(what, field) => emit('find', step, what, field)"
          />
        </li>
      </ol>
    </div>
  </aside>
</template>

<style scoped>
.steps {
  width: 250px;
  flex: none;
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--panel);
  border-right: 1px solid var(--line);
}

header {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 38px;
  padding: 0 10px 0 13px;
  border-bottom: 1px solid var(--line);
  flex: none;
}

/* the menu is taken out of this place, so it is reached by its own name */
:global(.kinds) {
  columns: 3;
  column-gap: 0;
  padding: 8px 0;
}

:global(.kinds .el-dropdown-menu__item) {
  padding: 3px 16px;
}

.group {
  break-inside: avoid;
  padding-bottom: 8px;
}

.group p {
  padding: 2px 16px;
  font-size: 11.5px;
}

.list {
  flex: 1;
  min-height: 0;
}

.none {
  padding: 10px 13px;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

li[data-step] {
  border-bottom: 1px solid var(--line);
  padding: 5px 8px 5px 13px;
}

li.open {
  background: var(--raised);
  box-shadow: inset 3px 0 var(--copper);
}

li.over {
  border-top: 2px solid var(--copper);
}

li.off .name {
  color: var(--soft);
  text-decoration: line-through;
}

.row {
  display: flex;
  align-items: center;
  gap: 5px;
}

.name {
  flex: 1;
  font-weight: 500;
  cursor: grab;
}

.act {
  width: 16px;
  text-align: center;
}

.act:disabled {
  opacity: 0.3;
}

.problem {
  color: var(--ochre);
  font-size: 12px;
}
</style>
