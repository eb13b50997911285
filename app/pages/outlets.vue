<script setup lang="ts">
/** Outlets: the recipes of this job, each edited in a form drawn from the format table. */
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { formatById, writtenFormats } from '~~/core/formats/registry'
import { readOutlet, writeOutlet } from '~~/core/outlet/text'
import type { Advice } from '~~/core/outlet/guide'
import { sentenceOf } from '~~/core/errors'
import { newOutlet, type Outlet, outletProblems, tagLine } from '~~/core/outlet/outlet'

const route = useRoute()
const router = useRouter()
const jobs = useJob()
const desk = useDesk()
const id = computed(() =>
  typeof route.query.id === 'string' && jobs.job.outlets[route.query.id]
    ? route.query.id
    : (jobs.job.outletOrder[0] ?? null)
)
const outlet = computed(() => (id.value ? (jobs.job.outlets[id.value] ?? null) : null))

function open(of: string): void {
  void router.replace(`/outlets?id=${of}`)
}

async function add(made: Omit<Outlet, 'id'>, label: string): Promise<void> {
  const kept = await jobs.addOutlet(made, label)
  if (kept) open(kept)
}

async function change(next: Outlet): Promise<void> {
  await jobs.edit('Edit outlet', draft => void (draft.outlets[next.id] = next))
}

async function remove(): Promise<void> {
  const of = id.value
  if (!of) return
  await jobs.edit('Remove outlet', draft => {
    Reflect.deleteProperty(draft.outlets, of)
    draft.outletOrder = draft.outletOrder.filter(other => other !== of)
  })
}

const guided = ref(false)

async function copy(): Promise<void> {
  if (!outlet.value) return
  await navigator.clipboard.writeText(writeOutlet(outlet.value))
  desk.message = `${outlet.value.name} is copied as text.`
}

async function paste(text: string): Promise<void> {
  let read
  try {
    read = readOutlet(text)
  } catch (error) {
    desk.message = sentenceOf(error)
    return
  }
  await add(read, 'Paste outlet')
}

async function pasteClipboard(): Promise<void> {
  try {
    await paste(await navigator.clipboard.readText())
  } catch {
    desk.message = 'The browser does not let Pour read the clipboard. Press Ctrl V here instead.'
  }
}

function pasted(event: ClipboardEvent): void {
  if (event.target instanceof HTMLElement && ['INPUT', 'TEXTAREA'].includes(event.target.tagName)) return
  const text = event.clipboardData?.getData('text')
  if (text) void paste(text)
}
</script>

<template>
  <main class="outlets" @paste="pasted">
    <header class="place-head">
      <h1>Outlets</h1>
      <span class="soft">Recipes of this job. Each becomes a column of the board.</span>
      <span class="spring" />
      <el-button title="Paste an outlet that was copied as text (Ctrl V)" @click="pasteClipboard">Paste</el-button>
      <el-button v-if="outlet" @click="copy">Copy as text</el-button>
      <el-button v-if="outlet" @click="add(outlet, 'Duplicate outlet')">Duplicate</el-button>
      <LibraryMenu :outlet="outlet" @take="add" />
      <el-button @click="guided = true">By where it goes…</el-button>
      <el-dropdown trigger="click" @command="(format: string) => add(newOutlet('', formatById(format)), 'Add outlet')">
        <el-button type="primary">Add outlet…</el-button>
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="format in writtenFormats" :key="format.id" :command="format.id">{{
              format.name
            }}</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
    </header>
    <GuideDialog v-model="guided" @add="({ outlet: made }: Advice) => add(made, 'Add outlet')" />
    <div class="body">
      <nav class="list scroll" aria-label="Outlets">
        <button
          v-for="o in jobs.outlets"
          :key="o.id"
          class="plain item"
          :class="{ here: o.id === id }"
          :aria-current="o.id === id"
          @click="open(o.id)"
        >
          <DropSign :state="outletProblems(o).length ? 'impossible' : 'empty'" :size="20" />
          <span
            ><strong>{{ o.name }}</strong
            ><span class="mono soft">{{ tagLine(o) }}</span></span
          >
        </button>
        <p v-if="!jobs.outlets.length" class="soft none">No outlets. Add one to say what is to be delivered.</p>
      </nav>
      <OutletForm v-if="outlet" :key="outlet.id" :outlet="outlet" @change="change" @remove="remove" />
    </div>
  </main>
</template>

<style scoped>
.outlets {
  display: flex;
  flex-direction: column;
  min-height: 0;
}

.outlets .el-button + .el-button {
  margin-left: 0;
}

.body {
  flex: 1;
  min-height: 0;
  display: flex;
}

.list {
  width: 272px;
  flex: none;
  background: var(--panel);
  border-right: 1px solid var(--line);
}

.item {
  display: flex;
  gap: 10px;
  width: 100%;
  padding: 10px 12px;
  border-bottom: 1px solid var(--line);
}

.item span {
  display: flex;
  flex-direction: column;
  min-width: 0;
}

.item.here {
  background: var(--raised);
  box-shadow: inset 3px 0 0 var(--copper);
}

.none {
  padding: 14px;
}
</style>
