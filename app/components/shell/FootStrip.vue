<script setup lang="ts">
/** The strip at the foot: what runs, how long it will take, who works, how full the browser's store is. */
import { sayAbout, sayBytes } from '~/composables/say'
import { useIntervalFn } from '@vueuse/core'
import { computed, onMounted, ref } from 'vue'
import { storageRoom } from '~/db/files'
import { useChecks } from '~/stores/checks'
import { useDesk } from '~/stores/desk'
import { useHandOver } from '~/stores/handover'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useSources } from '~/stores/sources'
import { useWatch } from '~/stores/watch'
import { useWorkshop } from '~/stores/workshop'
import { splitCell } from '~~/core/job/job'

const jobs = useJob()
const pours = usePours()
const sources = useSources()
const workshop = useWorkshop()
const desk = useDesk()
const watched = useWatch()
const handover = useHandOver()
const checks = useChecks()

const room = ref({ used: 0, quota: 0 })
const busy = ref(0)
/** Sizes of cells still being found out, and whether anything else is. */
const trying = ref(0)
const quiet = ref(true)
const clock = ref(performance.now())

const lasting = ref(false)

async function measure(): Promise<void> {
  room.value = await storageRoom()
  lasting.value = await navigator.storage.persisted()
}

/** How full the store is, and whether it is the browser's to clear. */
const keeping = computed(
  () =>
    `Used of what this browser keeps for Pour. ${
      lasting.value
        ? 'It is kept until you remove it.'
        : 'The browser may clear it when the disk runs full; save what must last.'
    }`
)

onMounted(measure)
useIntervalFn(() => void measure(), 4000)
useIntervalFn(() => {
  quiet.value = busy.value === 0 && workshop.pool.load === 0
  busy.value = Math.min(workshop.pool.size, workshop.pool.load)
  trying.value = pours.estimating()
  clock.value = performance.now()
}, 300)

const running = computed(() => {
  const cell = pours.current
  const now = cell ? pours.work.get(cell) : undefined
  if (!cell || !now || !('done' in now)) return null
  const { sourceId, outletId } = splitCell(cell)
  const seconds = (clock.value - now.started) / 1000
  const speed = now.done > 0 ? now.done / Math.max(seconds, 0.05) : 0
  const outlet = jobs.job.outlets[outletId]
  return {
    verb: now.state === 'pouring' ? 'Pouring' : 'Proving',
    ending: now.done < now.total ? null : now.state === 'pouring' ? 'closing the file' : 'weighing what was found',
    name: `${jobs.job.sources[sourceId]?.name ?? ''} → ${outlet?.name ?? ''}`,
    done: now.done,
    total: now.total,
    speed,
    left: pours.roundLeft(clock.value)
  }
})

const seen = computed(() => [...sources.looking.values()].reduce((a, b) => a + b, 0))
const percent = computed(() => (room.value.quota ? (room.value.used / room.value.quota) * 100 : 0))
</script>

<template>
  <footer class="strip">
    <template v-if="running">
      <strong
        >{{ running.verb }} {{ pours.round.ended + 1 }} of {{ pours.round.total
        }}{{ pours.paused ? ', then paused' : '' }}</strong
      >
      <span class="name">{{ running.name }}</span>
      <span
        class="bar"
        role="progressbar"
        :aria-valuenow="running.done"
        :aria-valuemax="running.total"
        :aria-label="running.name"
        ><i :style="{ width: `${(running.done / running.total) * 100}%` }"
      /></span>
      <span class="mono"
        >{{ running.done }}/{{ running.total }} frames ·
        {{ running.speed.toFixed(running.speed < 10 ? 1 : 0) }} f/s<template v-if="running.ending">
          · {{ running.ending }}</template
        ><template v-else-if="running.left !== null"> · {{ sayAbout(running.left) }} left</template></span
      >
    </template>
    <template v-else-if="pours.paused && pours.waiting">
      <strong>Paused</strong>
      <span class="soft">{{ pours.waiting === 1 ? 'One cell waits' : `${pours.waiting} cells wait` }}.</span>
    </template>
    <template v-else-if="sources.intake">
      <strong>Bringing in</strong>
      <span class="mono">{{ sources.intake.done }}/{{ sources.intake.total }} files</span>
    </template>
    <template v-else-if="sources.looking.size || sources.coming">
      <strong
        >Looking at {{ ['sources', 'one source'][sources.looking.size] ?? `${sources.looking.size} sources` }}</strong
      >
      <span class="mono">{{ seen ? `${seen} frames seen` : 'opening' }}</span>
      <span v-if="sources.coming" class="soft">{{ sources.coming }} more to come</span>
    </template>
    <template v-else-if="handover.running">
      <strong>Hand-over</strong>
      <span class="name">{{ handover.running.what }}</span>
    </template>
    <template v-else-if="checks.running">
      <strong>Proving</strong>
      <span class="name">{{ checks.running.name }}</span>
      <span class="mono">{{ checks.running.done }}/{{ checks.running.total }} frames</span>
    </template>
    <template v-else-if="trying || !quiet">
      <strong>{{ trying ? 'Trying out sizes' : 'Looking closer' }}</strong>
      <span v-if="trying" class="soft">{{ trying === 1 ? 'of one cell' : `of ${trying} cells` }}</span>
    </template>
    <span v-else class="soft">Nothing is running.</span>
    <span v-if="desk.message" class="message" role="status"
      >{{ desk.message }} <button class="link" @click="desk.message = null">Close</button></span
    >
    <span v-if="jobs.refusal" class="message" role="status"
      >Not kept. {{ jobs.refusal.sentence }} <button class="link" @click="jobs.refusal = null">Close</button></span
    >
    <span class="spring" />
    <button
      v-if="watched.folder || watched.stopped"
      class="link small"
      :class="{ bad: watched.stopped }"
      title="Show what came into the folder, or stop watching it"
      @click="desk.watchShown = true"
    >
      <template v-if="watched.folder"
        >Watching {{ watched.folder.name }}: {{ watched.counts.done }} done,
        {{ watched.counts.failed }} failed</template
      ><template v-else>Not watched any more</template>
    </button>
    <span class="mono soft" title="Workers busy">{{ busy }} of {{ workshop.pool.size }} workers</span>
    <span class="mono soft" :title="keeping"
      >{{ sayBytes(room.used) }} of {{ sayBytes(room.quota)
      }}<template v-if="percent > 80"> · nearly full</template></span
    >
    <template v-if="pours.current || (pours.paused && pours.waiting)">
      <el-button v-if="pours.paused" size="small" @click="pours.resume()">Go on</el-button>
      <el-button
        v-else-if="pours.waiting"
        size="small"
        title="Finishes the cell in hand; the others wait"
        @click="pours.pause()"
        >Pause</el-button
      >
      <el-button class="tight" size="small" @click="pours.cancel()">Cancel</el-button>
    </template>
    <el-button v-else-if="sources.intake" size="small" @click="sources.stopBringing()">Cancel</el-button>
  </footer>
</template>

<style scoped>
.strip {
  flex: none;
  height: 38px;
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 0 14px;
  background: var(--panel);
  border-top: 1px solid var(--line);
  white-space: nowrap;
  overflow: hidden;
}

.name {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  color: var(--soft);
}

.bar {
  width: 150px;
  height: 6px;
  border-radius: 3px;
  background: var(--line);
  overflow: hidden;
}

.bar i {
  display: block;
  height: 100%;
  background: var(--copper-fill);
}

.tight {
  margin-left: 0;
}

.message {
  color: var(--ochre);
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
