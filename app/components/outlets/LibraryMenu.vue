<script setup lang="ts">
/**
 * Outlets kept for every job of this browser, and outlets as files. A job takes a copy, which later changes to the
 * library leave alone.
 */
import { fileOpen } from 'browser-fs-access'
import { onBeforeUnmount, ref } from 'vue'
import { liveQuery } from 'dexie'
import { download } from '~/composables/useDownload'
import { database, type StoredOutlet } from '~/db/database'
import { sayStore } from '~/db/words'
import { useDesk } from '~/stores/desk'
import { isAbort } from '~~/core/base/errors'
import { safeName } from '~~/core/job/outlet/names'
import { OutletText, tagLine, type Outlet } from '~~/core/job/outlet/outlet'
import { readOutlet, writeOutlet } from '~~/core/job/outlet/text'

const { outlet } = defineProps<{ outlet: Outlet | null }>()
const emit = defineEmits<{ take: [outlet: Omit<Outlet, 'id'>, label: string] }>()
const desk = useDesk()
const kept = ref<StoredOutlet[]>([])

// rows that are damaged are not offered; the rescue file has them all the same
const following = liveQuery(() => database.library.toArray()).subscribe(rows => {
  kept.value = rows
    .flatMap(row => {
      const read = OutletText.safeParse(row.outlet)
      return read.success ? [{ ...row, outlet: read.data }] : []
    })
    .sort((a, b) => a.outlet.name.localeCompare(b.outlet.name))
})
onBeforeUnmount(() => following.unsubscribe())

async function keep(): Promise<void> {
  if (!outlet) return
  const same = kept.value.find(row => row.outlet.name === outlet.name)
  await database.library.put({ id: same?.id ?? crypto.randomUUID(), at: Date.now(), outlet: OutletText.parse(outlet) })
  desk.message = same ? `${outlet.name} in the library is now as it is here.` : `${outlet.name} is kept in the library.`
}

async function act(command: string): Promise<void> {
  try {
    if (command === 'keep') await keep()
    else if (command === 'save' && outlet)
      download(`${safeName(outlet.name)}.json`, new Blob([writeOutlet(outlet)], { type: 'application/json' }))
    else if (command === 'open') {
      const file = await fileOpen({ description: 'An outlet', extensions: ['.json'], id: 'outlet' })
      emit('take', readOutlet(await file.text()), 'Open outlet')
    } else {
      const row = kept.value.find(({ id }) => id === command)
      if (row) emit('take', row.outlet, 'Take outlet from the library')
    }
  } catch (error) {
    if (!isAbort(error)) desk.message = sayStore(error)
  }
}

async function remove(row: StoredOutlet): Promise<void> {
  await database.library.delete(row.id).catch((error: unknown) => void (desk.message = sayStore(error)))
}
</script>

<template>
  <el-dropdown trigger="click" @command="act">
    <el-button>Library…</el-button>
    <template #dropdown>
      <el-dropdown-menu class="library">
        <el-dropdown-item v-for="row in kept" :key="row.id" :command="row.id">
          <span class="row"
            ><span
              >{{ row.outlet.name
              }}<span class="mono soft recipe">{{ tagLine({ id: row.id, ...row.outlet }) }}</span></span
            ><button
              class="link small"
              :aria-label="`Take ${row.outlet.name} out of the library`"
              @click.stop="remove(row)"
            >
              take out
            </button></span
          >
        </el-dropdown-item>
        <el-dropdown-item command="keep" :disabled="!outlet" :divided="kept.length > 0"
          >Keep this outlet for every job</el-dropdown-item
        >
        <el-dropdown-item command="save" :disabled="!outlet" divided>Save this outlet as a file</el-dropdown-item>
        <el-dropdown-item command="open">Open an outlet file…</el-dropdown-item>
      </el-dropdown-menu>
    </template>
  </el-dropdown>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  width: 100%;
  line-height: 1.3;
}

.recipe {
  display: block;
  font-size: 12px;
}
</style>
