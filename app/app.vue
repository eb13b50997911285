<script setup lang="ts">
import AboutDialog from '~/components/shell/AboutDialog.vue'
import ActMenu from '~/components/shell/ActMenu.vue'
import DropAnywhere from '~/components/shell/DropAnywhere.vue'
import EmptyPlace from '~/components/shell/EmptyPlace.vue'
import FootStrip from '~/components/shell/FootStrip.vue'
import JobNotices from '~/components/shell/JobNotices.vue'
import KeysDialog from '~/components/shell/KeysDialog.vue'
import PlaceRail from '~/components/shell/PlaceRail.vue'
import RateDialog from '~/components/shell/RateDialog.vue'
import WatchDialog from '~/components/board/WatchDialog.vue'
import { useAwake } from '~/composables/useAwake'
import { useKeys } from '~/composables/useKeys'
import { useRescue } from '~/composables/useRescue'
import { useUndo } from '~/composables/useUndo'
import { onMounted, ref } from 'vue'
import { useChecks } from '~/stores/checks'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { usePours } from '~/stores/pours'
import { useScenes } from '~/stores/scenes'
import { useSources } from '~/stores/sources'
import type { Given } from '~/db/files'
import { isFontName } from '~~/core/draw/scene/own-faces'
import { beginDemo } from '~/demo-job'
import { sayStore } from '~/db/words'

const jobs = useJob()
const desk = useDesk()
const pours = usePours()
const sources = useSources()
const scenes = useScenes()
const checks = useChecks()
const failed = ref<string | null>(null)
const rescue = useRescue()
const { undo, redo } = useUndo()

onMounted(async () => {
  try {
    const fresh = await jobs.open()
    await pours.open()
    checks.open()
    if (fresh) await beginDemo()
  } catch (error) {
    failed.value = sayStore(error)
  }
})

useKeys({
  '?': () => (desk.keysShown = true),
  'Shift+?': () => (desk.keysShown = true),
  '$mod+z': () => void undo(),
  '$mod+Shift+z': () => void redo(),
  '$mod+Shift+Z': () => void redo(),
  d: () => (desk.theme = desk.theme === 'dim' ? 'light' : 'dim')
})

/** Font files go to the scene that is being worked on, everything else to the job. */
async function take(given: Given[]): Promise<void> {
  const fonts = scenes.opened ? given.filter(({ path }) => isFontName(path)) : []
  const rest = given.filter(each => !fonts.includes(each))
  if (fonts.length) await scenes.takeFaces(scenes.opened!, fonts)
  if (rest.length) await sources.bringIn(rest)
}

useAwake(() => pours.current !== null)

const again = (): void => window.location.reload()
</script>

<template>
  <DropAnywhere @given="take">
    <div class="house">
      <PlaceRail />
      <div class="place">
        <EmptyPlace v-if="failed" title="The job could not be opened" class="main" role="alert">
          <p>{{ failed }}</p>
          <p v-if="rescue.failed.value">Nothing could be read either: {{ rescue.failed.value }}</p>
          <p>Nothing was removed. Save what can still be read before anything else.</p>
          <template #acts>
            <el-button type="primary" :loading="rescue.saving.value" @click="rescue.save()"
              >Save everything that can be read</el-button
            >
            <el-button @click="again">Try again</el-button>
          </template>
        </EmptyPlace>
        <template v-else-if="jobs.ready">
          <JobNotices />
          <NuxtPage class="main" />
        </template>
        <p v-else class="opening soft main">Opening the job …</p>
        <FootStrip />
      </div>
    </div>
    <KeysDialog v-model="desk.keysShown" />
    <AboutDialog v-model="desk.aboutShown" />
    <WatchDialog v-model="desk.watchShown" />
    <RateDialog />
    <ActMenu />
  </DropAnywhere>
</template>

<style scoped>
.house {
  display: flex;
  height: 100vh;
}

.place {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}

.place > .main {
  flex: 1;
  min-height: 0;
}

.opening {
  padding: 24px;
}
</style>
