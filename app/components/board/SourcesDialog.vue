<script setup lang="ts">
/**
 * Many sources at once: put in order, renamed by rule with the names seen before, removed. One undo takes each of it
 * back.
 */
import { computed, reactive, ref } from 'vue'
import { useJob } from '~/stores/job'
import { moved, NO_RENAMING, renamed } from '~~/core/job/names'

const open = defineModel<boolean>({ required: true })
const jobs = useJob()
const picked = ref(new Set<string>())
const rule = reactive({ ...NO_RENAMING })
const numbered = ref(false)

const chosen = computed(() => jobs.sources.filter(({ id }) => picked.value.has(id)))
const names = computed(() => {
  const after = renamed(
    chosen.value.map(({ name }) => name),
    { ...rule, number: numbered.value ? (rule.number ?? 1) : null }
  )
  return new Map(chosen.value.map(({ id }, n) => [id, after[n]!]))
})
const changed = computed(() => chosen.value.filter(({ id, name }) => names.value.get(id) !== name))
const all = computed(() => jobs.sources.length > 0 && picked.value.size === jobs.sources.length)

function toggle(id: string): void {
  const next = new Set(picked.value)
  if (!next.delete(id)) next.add(id)
  picked.value = next
}
function toggleAll(): void {
  picked.value = new Set(all.value ? [] : jobs.sources.map(({ id }) => id))
}

async function rename(): Promise<void> {
  await jobs.renameSources(new Map(changed.value.map(({ id }) => [id, names.value.get(id)!])))
  Object.assign(rule, NO_RENAMING)
  numbered.value = false
}

async function move(by: 1 | -1): Promise<void> {
  await jobs.edit('Change the order of sources', draft => {
    draft.sourceOrder = moved(draft.sourceOrder, picked.value, by)
  })
}

async function byName(): Promise<void> {
  await jobs.edit('Order sources by name', draft => {
    const nameOf = (id: string): string => draft.sources[id]?.name ?? ''
    draft.sourceOrder = [...draft.sourceOrder].sort((a, b) =>
      nameOf(a).localeCompare(nameOf(b), undefined, { numeric: true })
    )
  })
}

async function remove(): Promise<void> {
  await jobs.removeSources(picked.value)
  picked.value = new Set()
}
</script>

<template>
  <el-dialog v-model="open" title="Sources of this job" width="720" append-to-body>
    <div class="acts">
      <label class="tick"><input type="checkbox" :checked="all" @change="toggleAll" /> All</label>
      <el-button size="small" :disabled="!picked.size" @click="move(-1)">Up</el-button>
      <el-button size="small" :disabled="!picked.size" @click="move(1)">Down</el-button>
      <el-button size="small" @click="byName">Order by name</el-button>
      <span class="spring" />
      <el-button size="small" :disabled="!picked.size" @click="remove"
        >Remove {{ picked.size === 1 ? 'one' : picked.size || '' }}</el-button
      >
    </div>
    <ol class="list scroll">
      <li v-for="source in jobs.sources" :key="source.id" :class="{ on: picked.has(source.id) }">
        <label class="tick">
          <input
            type="checkbox"
            :checked="picked.has(source.id)"
            :aria-label="`Pick ${source.name}`"
            @change="toggle(source.id)"
          />
          <span>{{ source.name }}</span>
        </label>
        <span v-if="names.has(source.id) && names.get(source.id) !== source.name" class="next"
          >→ {{ names.get(source.id) }}</span
        >
      </li>
    </ol>
    <fieldset class="rule" :disabled="!picked.size">
      <legend>New names for what is picked</legend>
      <label>Instead of <input v-model="rule.find" maxlength="80" /></label>
      <label>write <input v-model="rule.replace" maxlength="80" /></label>
      <label>before it <input v-model="rule.before" maxlength="40" /></label>
      <label>behind it <input v-model="rule.behind" maxlength="40" /></label>
      <label class="tick"><input v-model="numbered" type="checkbox" /> numbered from</label>
      <input
        class="number"
        type="number"
        min="0"
        max="99999"
        aria-label="First number"
        :disabled="!numbered"
        :value="rule.number ?? 1"
        @change="e => (rule.number = Math.max(0, Math.round(Number((e.target as HTMLInputElement).value) || 0)))"
      />
    </fieldset>
    <template #footer>
      <el-button @click="open = false">Close</el-button>
      <el-button type="primary" :disabled="!changed.length" @click="rename"
        >Rename {{ changed.length === 1 ? 'one' : changed.length || '' }}</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
.acts,
.rule {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}

.acts .el-button + .el-button {
  margin-left: 0;
}

.list {
  margin: 10px 0;
  padding: 0;
  max-height: 300px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  list-style: none;
}

.list li {
  display: flex;
  gap: 10px;
  padding: 4px 10px;
  border-bottom: 1px solid var(--line);
}

.list li.on {
  background: var(--copper-wash);
}

.next {
  color: var(--copper);
}

.tick {
  display: flex;
  gap: 6px;
  align-items: center;
}

.rule {
  border: 1px solid var(--line);
  border-radius: var(--radius);
  padding: 8px 10px;
}

.rule input:not([type='checkbox']) {
  font: inherit;
  color: var(--ink);
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 2px 5px;
  width: 118px;
}

.rule input.number {
  width: 74px;
}
</style>
