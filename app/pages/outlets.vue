<script setup lang="ts">
/** Outlets: the recipes of this job, each edited in a form drawn from the format table. */
import AddOutlet from '~/components/outlets/AddOutlet.vue'
import DropSign from '~/components/shell/DropSign.vue'
import GuideDialog from '~/components/outlets/GuideDialog.vue'
import LibraryMenu from '~/components/outlets/LibraryMenu.vue'
import OutletForm from '~/components/outlets/OutletForm.vue'
import UndoButtons from '~/components/shell/UndoButtons.vue'
import { useActs } from '~/composables/useActs'
import { useCopies } from '~/composables/useCopies'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { formatById } from '~~/core/open/registry'
import { readOutlet, writeOutlet } from '~~/core/job/outlet/text'
import type { Advice } from '~~/core/job/outlet/guide'
import { newOutlet, type Outlet, outletProblems, tagLine } from '~~/core/job/outlet/outlet'

const route = useRoute()
const router = useRouter()
const jobs = useJob()
const desk = useDesk()
/** What was chosen on the board opens here where nothing else is asked for. */
const chosen = computed(() => {
  const now = desk.choice
  const of = now?.kind === 'cell' ? now.outletId : now?.kind === 'outlet' ? now.id : null
  return of && jobs.job.outlets[of] ? of : null
})
const id = computed(() =>
  typeof route.query.id === 'string' && jobs.job.outlets[route.query.id]
    ? route.query.id
    : (chosen.value ?? jobs.job.outletOrder[0] ?? null)
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
  const of = outlet.value
  if (!of) return
  await jobs.removeOutlet(of.id)
  desk.message = `${of.name} is removed. Undo brings it back.`
}

const guided = ref('guide' in route.query)

async function duplicate(): Promise<void> {
  if (outlet.value) await add(outlet.value, 'Duplicate outlet')
}

const copies = useCopies({
  copy: () => (outlet.value ? writeOutlet(outlet.value) : null),
  paste: text => add(readOutlet(text), 'Paste outlet'),
  duplicate,
  remove
})
const acts = useActs()

function menu(event: MouseEvent, of: string): void {
  open(of)
  acts.open(event, [
    { label: 'Duplicate', key: 'Ctrl D', run: duplicate },
    { label: 'Copy as text', key: 'Ctrl C', run: copies.copy },
    { label: 'Paste', key: 'Ctrl V', run: copies.paste },
    { label: 'Remove outlet', key: 'Delete', apart: true, run: remove }
  ])
}
</script>

<template>
  <main class="outlets">
    <header class="place-head">
      <h1>Outlets</h1>
      <span class="soft">Each becomes a column of the board.</span>
      <span class="spring" />
      <UndoButtons />
      <el-button title="Paste an outlet that was copied as text (Ctrl V)" @click="copies.paste">Paste</el-button>
      <el-button v-if="outlet" title="Copy it as text (Ctrl C)" @click="copies.copy">Copy as text</el-button>
      <el-button v-if="outlet" title="Add one like it (Ctrl D)" @click="duplicate">Duplicate</el-button>
      <LibraryMenu :outlet="outlet" @take="add" />
      <el-button @click="guided = true">By where it goes…</el-button>
      <AddOutlet primary @add="format => add(newOutlet('', formatById(format)), 'Add outlet')" />
    </header>
    <GuideDialog v-model="guided" @add="({ outlet: made }: Advice) => add(made, 'Add outlet')" />
    <div class="place-body">
      <nav class="list scroll" aria-label="Outlets">
        <button
          v-for="o in jobs.outlets"
          :key="o.id"
          class="plain item"
          :class="{ here: o.id === id }"
          :aria-current="o.id === id"
          @click="open(o.id)"
          @contextmenu="menu($event, o.id)"
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
