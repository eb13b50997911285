<script setup lang="ts">
/** Buttons that add an element of each kind, from nothing, from a file, or from another source of the job. */
import { fileOpen } from 'browser-fs-access'
import { computed } from 'vue'
import { useCarried } from '~/composables/useCarried'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { elementKinds, type Look } from '~~/core/draw/scene/elements/kinds'
import type { Scene } from '~~/core/draw/scene/scene'

/** `own` is the source that the scene itself is. */
const { scene, own } = defineProps<{ scene: Scene; own: string }>()
const emit = defineEmits<{ add: [look: Look, name?: string] }>()
const desk = useDesk()
const jobs = useJob()
const sources = useSources()

type Kind = (typeof elementKinds)[number]

const { pictureIn } = useCarried()
async function addPicture({ begins }: Kind): Promise<void> {
  if (begins.from !== 'picture') return
  try {
    const file = await fileOpen({ description: 'A picture, a drawing, or a film of which a frame is taken' })
    const { picture, said } = await pictureIn(file)
    emit('add', begins.fresh(scene, picture), file.name)
    if (said.length) desk.message = said.join(' ')
  } catch (error) {
    if (!isAbort(error)) desk.message = sentenceOf(error)
  }
}

/** Other sources of the job that the scene can show; those that show it in the end are not among them. */
const others = computed(() =>
  jobs.sources.filter(other => other.id !== own && !(other.scene && sources.shownIn(other.scene).has(own)))
)

function addSource({ begins }: Kind, id: string): void {
  const other = jobs.job.sources[id]
  if (!other || begins.from !== 'source') return
  const { width, height, pixelAspect } = sources.factsOf(other)
  const across = (width * pixelAspect[0]) / pixelAspect[1]
  emit('add', begins.fresh(scene, { id, name: other.name, width: across, height }), other.name)
}

function add({ begins }: Kind): void {
  if (begins.from === 'size') emit('add', begins.fresh(scene))
}
</script>

<template>
  <div class="adds">
    <template v-for="kind in elementKinds" :key="kind.name">
      <el-dropdown
        v-if="kind.begins.from === 'source'"
        trigger="click"
        :disabled="!others.length"
        @command="(id: string) => addSource(kind, id)"
      >
        <el-button
          size="small"
          :disabled="!others.length"
          :title="others.length ? kind.help : 'The job has no other source'"
          >{{ kind.name }}…</el-button
        >
        <template #dropdown>
          <el-dropdown-menu>
            <el-dropdown-item v-for="other in others" :key="other.id" :command="other.id">{{
              other.name
            }}</el-dropdown-item>
          </el-dropdown-menu>
        </template>
      </el-dropdown>
      <el-button v-else-if="kind.begins.from === 'picture'" size="small" :title="kind.help" @click="addPicture(kind)"
        >{{ kind.name }}…</el-button
      >
      <el-button v-else size="small" :title="kind.help" @click="add(kind)">{{ kind.name }}</el-button>
    </template>
  </div>
</template>

<style scoped>
.adds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  padding: 10px 12px;
}

.adds .el-button {
  margin-left: 0;
  padding: 5px 8px;
}
</style>
