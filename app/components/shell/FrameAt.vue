<script setup lang="ts">
/** Which frame is shown, as number and time code; typed, it goes there. */
import { computed, nextTick, ref } from 'vue'
import type { Rate } from '~~/core/base/rate'
import { frameToTimecode, frameTyped, timecodeToFrame } from '~~/core/base/timecode'
import { sentenceOf } from '~~/core/base/errors'

const {
  frames,
  rate,
  start = null
} = defineProps<{ frames: number; rate: Rate | null; /** Time code of the first frame. */ start?: string | null }>()
const index = defineModel<number>('index', { required: true })
const typing = ref(false)
const typed = ref('')
const wrong = ref<string | null>(null)
const field = ref<HTMLInputElement | null>(null)

const timecode = computed(() =>
  rate
    ? frameToTimecode((start ? timecodeToFrame(start, rate) : 0) + index.value, rate, start?.includes(';') ?? false)
    : ''
)

async function begin(): Promise<void> {
  typed.value = String(index.value + 1)
  typing.value = true
  wrong.value = null
  await nextTick()
  field.value?.select()
}

function go(text: string): void {
  try {
    index.value = frameTyped(text, index.value, { frames, rate, start })
    typing.value = false
  } catch (error) {
    wrong.value = sentenceOf(error)
  }
}

function end(): void {
  typing.value = false
  wrong.value = null
}
</script>

<template>
  <span class="at mono">
    <template v-if="typing">
      frame
      <input
        ref="field"
        v-model="typed"
        aria-label="Frame or time code"
        :aria-invalid="wrong !== null"
        @keydown.enter.stop="go(typed)"
        @keydown.esc.stop="end"
        @keydown.stop
        @blur="end"
      />
      <span v-if="wrong" class="wrong" role="alert">{{ wrong }}</span>
    </template>
    <button v-else class="plain" title="Type a frame or a time code to go there" @click="begin">
      frame {{ index + 1 }} of {{ frames }}<template v-if="timecode"> · {{ timecode }}</template>
    </button>
  </span>
</template>

<style scoped>
.at {
  position: relative;
  white-space: nowrap;
}

button:hover {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}

input {
  width: 104px;
  padding: 0 4px;
  font: inherit;
  color: var(--ink);
  background: var(--raised);
  border: 1px solid var(--copper);
  border-radius: 3px;
}

.wrong {
  position: absolute;
  right: 0;
  bottom: calc(100% + 6px);
  z-index: 5;
  width: max-content;
  max-width: 340px;
  padding: 5px 8px;
  white-space: normal;
  font-family: var(--sans);
  color: var(--ink);
  background: var(--ochre-wash);
  border: 1px solid var(--ochre);
  border-radius: var(--radius);
}
</style>
