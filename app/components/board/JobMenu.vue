<script setup lang="ts">
/** The jobs of this browser: another one, a new one, this one as a file. */
import ReceiverDialog from '~/components/board/ReceiverDialog.vue'
import { fileOpen } from 'browser-fs-access'
import { ElMessageBox } from 'element-plus'
import { ref } from 'vue'
import { download } from '~/composables/useDownload'
import {
  addJobFile,
  deleteJob,
  duplicateJob,
  jobAsFile,
  listJobs,
  newFrom,
  newJob,
  switchTo,
  type JobLine
} from '~/db/jobs'
import { sayStore } from '~/db/words'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useWorkshop } from '~/stores/workshop'
import { isAbort } from '~~/core/base/errors'
import { safeName } from '~~/core/job/outlet/names'

const jobs = useJob()
const desk = useDesk()
const pours = usePours()
const workshop = useWorkshop()
const others = ref<JobLine[]>([])
const busy = ref(false)
const asked = ref(false)

async function look(open: boolean): Promise<void> {
  if (open) others.value = (await listJobs()).filter(({ id }) => id !== jobs.job.id)
}

/** Whether what is under way may be left. */
async function mayLeave(): Promise<boolean> {
  if (!pours.current) return true
  return ElMessageBox.confirm('A pour is under way. It is stopped when another job is opened.', 'Open another job?', {
    confirmButtonText: 'Stop it and open',
    cancelButtonText: 'Stay'
  }).then(
    () => true,
    () => false
  )
}

async function save(withMedia: boolean): Promise<void> {
  download(`${safeName(jobs.job.name)}.pour`, await jobAsFile(jobs.job, withMedia))
}

async function openFile(): Promise<void> {
  const file = await fileOpen({ description: 'A job', extensions: ['.pour'], id: 'job' })
  const { id, told } = await addJobFile(file, await workshop.host())
  if (told.length) await ElMessageBox.alert(told.slice(0, 8).join(' '), 'Not all of it could be taken')
  if (await mayLeave()) switchTo(id)
}

async function remove(): Promise<void> {
  const sure = await ElMessageBox.confirm(
    `“${jobs.job.name}” goes with everything it poured. Files of its own are removed from this browser. This cannot be undone.`,
    'Delete this job?',
    { confirmButtonText: 'Delete it', cancelButtonText: 'Keep it', confirmButtonClass: 'el-button--danger' }
  ).then(
    () => true,
    () => false
  )
  if (!sure) return
  const next = (await listJobs()).find(({ id }) => id !== jobs.job.id)?.id ?? (await newJob())
  await deleteJob(jobs.job.id)
  switchTo(next)
}

const ACTS: Record<string, () => Promise<void>> = {
  new: async () => void ((await mayLeave()) && switchTo(await newJob())),
  template: async () => void ((await mayLeave()) && switchTo(await newFrom(jobs.job))),
  duplicate: async () => void ((await mayLeave()) && switchTo(await duplicateJob(jobs.job))),
  open: openFile,
  save: () => save(false),
  'save-media': () => save(true),
  receiver: () => Promise.resolve(void (asked.value = true)),
  delete: remove
}

async function act(command: string): Promise<void> {
  busy.value = true
  try {
    const own = ACTS[command]
    if (own) await own()
    else if (await mayLeave()) switchTo(command)
  } catch (error) {
    if (!isAbort(error)) desk.message = sayStore(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <el-dropdown trigger="click" @command="act" @visible-change="look">
    <el-button :loading="busy" title="This job as a file, and the others of this browser">Jobs…</el-button>
    <template #dropdown>
      <el-dropdown-menu class="jobs">
        <el-dropdown-item v-for="other in others" :key="other.id" :command="other.id"
          >{{ other.name
          }}<span class="soft"
            >&nbsp;· {{ other.sources }} {{ other.sources === 1 ? 'source' : 'sources' }}, {{ other.outlets }}
            {{ other.outlets === 1 ? 'outlet' : 'outlets' }}</span
          ></el-dropdown-item
        >
        <el-dropdown-item command="new" :divided="others.length > 0">New job</el-dropdown-item>
        <el-dropdown-item command="template">New job with these outlets</el-dropdown-item>
        <el-dropdown-item command="duplicate">Duplicate this job</el-dropdown-item>
        <el-dropdown-item command="open">Open a job file…</el-dropdown-item>
        <el-dropdown-item command="receiver" divided>What the receiver demands…</el-dropdown-item>
        <el-dropdown-item command="save" divided>Save the job</el-dropdown-item>
        <el-dropdown-item command="save-media">Save the job with its media</el-dropdown-item>
        <el-dropdown-item command="delete" divided>Delete this job…</el-dropdown-item>
      </el-dropdown-menu>
    </template>
  </el-dropdown>
  <ReceiverDialog v-model="asked" />
</template>

<style scoped>
.jobs {
  max-height: 70vh;
  overflow-y: auto;
}
</style>
