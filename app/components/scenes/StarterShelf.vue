<script setup lang="ts">
/** Scenes to begin with, as small pictures; the chosen one asks its few fields. */
import SceneThumb from '~/components/scenes/SceneThumb.vue'
import { computed, ref } from 'vue'
import { formatRate, parseRate } from '~~/core/base/rate'
import { midstOf } from '~~/core/draw/scene/order'
import { emptyScene, type SceneSize } from '~~/core/draw/scene/fresh'
import { starters } from '~~/core/draw/scene/starters'
import type { Scene } from '~~/core/draw/scene/scene'

const emit = defineEmits<{ make: [scene: Scene] }>()
const SIZES = [
  { label: '1920 × 1080', width: 1920, height: 1080 },
  { label: '3840 × 2160', width: 3840, height: 2160 },
  { label: '1280 × 720', width: 1280, height: 720 },
  { label: '1080 × 1920, upright', width: 1080, height: 1920 },
  { label: '1080 × 1080', width: 1080, height: 1080 },
  { label: '640 × 360', width: 640, height: 360 }
]
const chosen = ref(starters[0]!.id)
const starter = computed(() => starters.find(({ id }) => id === chosen.value)!)
const size = ref(0)
const rate = ref('25')
const seconds = ref(starters[0]!.seconds)
/** What was typed, by field. */
const fields = ref<Record<string, string>>({})
const wrong = ref('')

const small: SceneSize = { width: 320, height: 180, rate: [25, 1], seconds: 4 }
const shown = starters.map(each => {
  const own = Object.fromEntries(each.fields.map(field => [field.id, field.default]))
  return { ...each, scene: each.make(own, { ...small, seconds: each.seconds }) }
})

function choose(id: string): void {
  chosen.value = id
  seconds.value = starter.value.seconds
  fields.value = {}
}

function sized(): SceneSize | null {
  const parsed = parseRate(rate.value)
  wrong.value = parsed ? '' : 'Give a rate as 25, 23.976 or 24000/1001.'
  const { width, height } = SIZES[size.value]!
  return parsed && { width, height, rate: parsed, seconds: Math.min(600, Math.max(0.1, Number(seconds.value) || 1)) }
}

function make(): void {
  const to = sized()
  if (!to) return
  const own = Object.fromEntries(starter.value.fields.map(field => [field.id, fields.value[field.id] ?? field.default]))
  emit('make', starter.value.make(own, to))
}

function makeEmpty(): void {
  const to = sized()
  if (to) emit('make', emptyScene('scene', to))
}
</script>

<template>
  <section class="shelf">
    <h2>Begin with</h2>
    <ul class="row">
      <li v-for="each in shown" :key="each.id">
        <button
          class="pick plain"
          :class="{ on: each.id === chosen }"
          :aria-pressed="each.id === chosen"
          @click="choose(each.id)"
        >
          <SceneThumb :scene="each.scene" :index="midstOf(each.scene.frames)" :width="148" :height="83" />
          {{ each.name }}
        </button>
      </li>
    </ul>
    <form class="fields" @submit.prevent="make">
      <p class="soft">{{ starter.help }}</p>
      <label v-for="field in starter.fields" :key="`${chosen} ${field.id}`"
        >{{ field.label
        }}<input
          :type="field.kind === 'colour' ? 'color' : 'text'"
          maxlength="200"
          :value="fields[field.id] ?? field.default"
          @input="fields[field.id] = ($event.target as HTMLInputElement).value"
      /></label>
      <label
        >Size<select v-model="size">
          <option v-for="(each, n) in SIZES" :key="each.label" :value="n">{{ each.label }}</option>
        </select></label
      >
      <label>Rate, f/s<input v-model="rate" :placeholder="formatRate([25, 1])" /></label>
      <label>Seconds<input v-model="seconds" type="number" min="0.1" max="600" step="0.1" /></label>
      <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
      <div class="acts">
        <el-button type="primary" native-type="submit">Make this scene</el-button>
        <el-button @click="makeEmpty">Begin with nothing in it</el-button>
      </div>
    </form>
  </section>
</template>

<style scoped>
.shelf {
  padding: 18px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  max-width: 1040px;
  margin: 0 auto;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  padding: 0;
  margin: 0;
  list-style: none;
}

.pick {
  display: flex;
  flex-direction: column;
  gap: 5px;
  padding: 6px;
  border: 1px solid transparent;
  border-radius: var(--radius);
  text-align: left;
}

.pick.on {
  border-color: var(--copper-fill);
  background: var(--raised);
  font-weight: 600;
}

.fields {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 260px));
  gap: 10px 14px;
}

.fields p,
.acts {
  grid-column: 1 / -1;
}

label {
  display: flex;
  flex-direction: column;
  gap: 3px;
  font-size: 12px;
  color: var(--soft);
}

input,
select {
  font: inherit;
  font-size: 13px;
  color: var(--ink);
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 5px 7px;
}

input[type='color'] {
  height: 31px;
  padding: 1px;
}

.wrong {
  color: var(--brick);
}
</style>
