<script setup lang="ts">
/** What is done with what is chosen in the picture: lined up, given even gaps; a path drawn anew or taken in. */
import { fileOpen } from 'browser-fs-access'
import { useDesk } from '~/stores/desk'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { EDGES, type Edge } from '~~/core/draw/scene/hands'
import type { PathLook } from '~~/core/draw/scene/elements/path/look'
import { pathInFile } from '~~/core/draw/vector/path-in-file'

const { many, path } = defineProps<{
  /** How many elements are chosen. */
  many: number
  /** Whether it is one path. */
  path: boolean
}>()
const emit = defineEmits<{
  'line-up': [edge: Edge]
  spread: [way: 'across' | 'down']
  draw: []
  take: [made: Pick<PathLook, 'points' | 'closed'>]
}>()
const desk = useDesk()

const WORDS: Record<Edge, string> = {
  left: 'Left edges',
  across: 'Middles across',
  right: 'Right edges',
  top: 'Upper edges',
  down: 'Middles down',
  bottom: 'Lower edges'
}
function run(command: string): void {
  if (command === 'gaps across' || command === 'gaps down') emit('spread', command.slice(5) as 'across' | 'down')
  else emit('line-up', command as Edge)
}

async function take(): Promise<void> {
  try {
    const file = await fileOpen({ extensions: ['.svg'], mimeTypes: ['image/svg+xml'], description: 'An SVG file' })
    const { of, ...made } = pathInFile(await file.text(), file.name)
    emit('take', made)
    if (of > 1) desk.message = `${file.name} draws ${of} lines; the longest is the path now.`
  } catch (error) {
    if (!isAbort(error)) desk.message = sentenceOf(error)
  }
}
</script>

<template>
  <el-dropdown v-if="many" trigger="click" @command="run">
    <el-button size="small" :title="many > 1 ? 'With each other' : 'With the picture; Shift-click another for more'">
      {{ many > 1 ? `Line up ${many}…` : 'Line up…' }}
    </el-button>
    <template #dropdown>
      <el-dropdown-menu>
        <el-dropdown-item v-for="edge in EDGES" :key="edge" :command="edge">{{ WORDS[edge] }}</el-dropdown-item>
        <el-dropdown-item divided command="gaps across" :disabled="many < 3">Even gaps across</el-dropdown-item>
        <el-dropdown-item command="gaps down" :disabled="many < 3">Even gaps down</el-dropdown-item>
      </el-dropdown-menu>
    </template>
  </el-dropdown>
  <template v-if="path">
    <el-button size="small" title="Click its points in the picture" @click="emit('draw')">Draw it anew</el-button>
    <el-button size="small" title="The longest line that an SVG file draws" @click="take">From an SVG file…</el-button>
  </template>
</template>
