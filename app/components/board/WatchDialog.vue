<script setup lang="ts">
/** Watching a folder: which, what pictures without a rate play at, and what became of what came. */
import { chooseTargetFolder } from '~/composables/useDelivery'
import { computed, ref } from 'vue'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useWatch } from '~/stores/watch'
import { DONE, FAILED, POURED } from '~~/core/run/delivery/arrivals'
import { sentenceOf } from '~~/core/base/errors'
import { parseRate } from '~~/core/base/rate'

const open = defineModel<boolean>({ required: true })
const jobs = useJob()
const desk = useDesk()
const watched = useWatch()
const rate = ref('')
const parsed = computed(() => (rate.value.trim() === '' ? null : parseRate(rate.value)))
const quiet = ref(String(watched.settle / 1000))
const quietWrong = computed(
  () => quiet.value.trim() === '' || !(Number(quiet.value) >= 0 && Number(quiet.value) <= 86_400)
)
const wrong = computed(() => rate.value.trim() !== '' && !parsed.value)

async function choose(): Promise<void> {
  try {
    const folder = await chooseTargetFolder()
    if (!folder) return
    watched.settle = 1000 * Number(quiet.value)
    watched.begin(folder, parsed.value)
  } catch (error) {
    desk.message = sentenceOf(error)
  }
}
</script>

<template>
  <el-dialog v-model="open" title="Watch a folder" width="620">
    <template v-if="watched.folder">
      <p>
        <strong>{{ watched.folder.name }}</strong> is watched while this page is open. What comes into it is poured
        through the {{ jobs.outlets.length === 1 ? 'outlet' : `${jobs.outlets.length} outlets` }} of this job.
      </p>
      <ul v-if="watched.arrivals.length" aria-label="What came">
        <li v-for="{ name, state, sentence } in watched.arrivals" :key="name" :class="state">
          <span class="mono">{{ name }}</span> <span>{{ sentence }}</span>
        </li>
      </ul>
      <p v-else class="soft">Nothing has come yet.</p>
    </template>
    <template v-else>
      <p v-if="watched.stopped" class="bad" role="alert">{{ watched.stopped }}</p>
      <p>
        Each film, picture sequence or folder that comes into it is brought in once it has arrived whole, poured through
        every outlet of this job into “{{ POURED }}”, proven, and moved to “{{ DONE }}” or “{{ FAILED }}” with its
        report. It ends when this page is closed; on the command line <span class="mono">watch</span> does the same.
      </p>
      <label>
        <span>Rate of sequences that name none</span>
        <input
          v-model="rate"
          type="text"
          inputmode="decimal"
          placeholder="25"
          aria-label="Rate of sequences that name none"
        />
        <span>frames/s</span>
      </label>
      <label>
        <span>Something has arrived when nothing of it has changed for</span>
        <input v-model="quiet" type="text" inputmode="decimal" aria-label="Seconds without a change" />
        <span>s</span>
      </label>
      <p v-if="quietWrong" class="bad" role="alert">Give seconds, from 0 to 86400.</p>
      <p v-if="wrong" class="bad" role="alert">Give a rate as 25, 23.976 or 30000/1001.</p>
    </template>
    <template #footer>
      <el-button @click="open = false">Close</el-button>
      <el-button v-if="watched.folder" type="primary" @click="watched.end()">Stop watching</el-button>
      <el-button v-else type="primary" :disabled="wrong || quietWrong || !jobs.outlets.length" @click="choose"
        >Choose the folder…</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
ul {
  display: flex;
  flex-direction: column;
  gap: 6px;
  max-height: 300px;
  overflow: auto;
  margin: 10px 0;
}

label {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 12px;
}

label input {
  width: 90px;
}

.done .mono {
  color: var(--verdigris);
}

.failed .mono,
.bad {
  color: var(--brick);
}

.working .mono,
.waiting .mono {
  color: var(--copper);
}
</style>
