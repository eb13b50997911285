<script setup lang="ts">
/** One step's settings, drawn from the fields of its kind. Dragging shows at once; letting go is one edit. */
import TextLine from '~/components/shell/TextLine.vue'
import { vHeld } from '~/composables/held'
import { computed } from 'vue'
import { useJob } from '~/stores/job'
import type { Step } from '~~/core/prepare/preparation'
import { stepKindById } from '~~/core/prepare/kinds'
import type { Box } from '~~/core/base/settings/box'
import { counts, type Field } from '~~/core/base/settings/field'
import type { ShapeAt } from '~~/core/base/settings/shape'

const { step, sourceId, busy = null } = defineProps<{ step: Step; sourceId: string; busy?: string | null }>()
const emit = defineEmits<{
  live: [settings: Step['settings']]
  set: [settings: Step['settings']]
  tool: [field: string, kind: string]
  find: [what: 'content' | 'screen', field: string]
}>()
const jobs = useJob()
const kind = computed(() => stepKindById(step.kind))
const fields = computed(() => Object.entries(kind.value.fields).filter(([, field]) => counts(field, step.settings)))
const others = computed(() => jobs.sources.filter(source => source.id !== sourceId))

const now = (key: string, value: unknown): Step['settings'] => ({ ...step.settings, [key]: value })
const set = (key: string, value: unknown): void => emit('set', now(key, value))
const box = (key: string): Box | null => step.settings[key] as Box | null
const shapes = (key: string): ShapeAt[] => step.settings[key] as ShapeAt[]
const wide = (field: Field): boolean => field.type === 'box' || field.type === 'shape'

/** What a point is called: a corner of the box around an ellipse or a rectangle, or its number. */
const pointName = ({ kind: of }: ShapeAt, n: number): string =>
  of === 'polygon' ? `${n + 1}` : n === 0 ? 'from' : 'to'

function setPoint(key: string, shape: ShapeAt, [n, axis]: [number, number], value: number): void {
  if (!Number.isFinite(value)) return
  const points = shape.points.map((point, i) =>
    i === n ? (axis === 0 ? [value, point[1]] : [point[0], value]) : [...point]
  ) as [number, number][]
  set(
    key,
    shapes(key).map(other => (other === shape ? { ...shape, points } : other))
  )
}

function setSide(key: string, side: keyof Box, value: number): void {
  const from = box(key)
  if (from) set(key, { ...from, [side]: value })
}
</script>

<template>
  <div class="form">
    <p class="soft">{{ kind.help }}</p>
    <div v-for="[key, field] in fields" :key="key" class="field" :class="{ wide: wide(field) }">
      <span :title="field.help">{{ field.label }}</span>
      <template v-if="field.type === 'number'">
        <input
          v-if="!field.typed"
          type="range"
          :aria-label="field.label"
          :min="field.min"
          :max="Math.min(field.max, Math.max(field.default * 8 + 100, Number(step.settings[key])))"
          :step="field.step"
          :value="step.settings[key]"
          @input="emit('live', now(key, Number(($event.target as HTMLInputElement).value)))"
          @change="set(key, Number(($event.target as HTMLInputElement).value))"
        />
        <input
          class="number mono"
          type="number"
          :class="{ alone: field.typed }"
          :aria-label="field.typed ? field.label : `${field.label}, number`"
          :min="field.min"
          :max="field.max"
          :step="field.step"
          v-held="Number(step.settings[key])"
          @change="
            set(key, Math.min(field.max, Math.max(field.min, Number(($event.target as HTMLInputElement).value))))
          "
        />
        <span class="unit soft">{{ field.unit }}</span>
      </template>
      <el-select
        v-else-if="field.type === 'choice'"
        :model-value="String(step.settings[key])"
        size="small"
        :aria-label="field.label"
        @update:model-value="(value: string) => set(key, value)"
      >
        <el-option v-for="choice in field.choices" :key="choice.value" :value="choice.value" :label="choice.label" />
      </el-select>
      <el-switch
        v-else-if="field.type === 'switch'"
        :model-value="Boolean(step.settings[key])"
        size="small"
        :aria-label="field.label"
        @change="value => set(key, Boolean(value))"
      />
      <template v-else-if="field.type === 'colour'">
        <input
          type="color"
          :aria-label="field.label"
          :value="step.settings[key]"
          @input="emit('live', now(key, ($event.target as HTMLInputElement).value))"
          @change="set(key, ($event.target as HTMLInputElement).value)"
        />
        <span class="mono">{{ step.settings[key] }}</span>
        <div v-if="sourceId" class="buttons beneath">
          <el-button size="small" @click="emit('tool', key, 'pick')" title="Pick it in the picture">Pick</el-button>
          <el-button v-if="field.found" size="small" :loading="busy === key" @click="emit('find', field.found, key)"
            >Find</el-button
          >
        </div>
      </template>
      <el-select
        v-else-if="field.type === 'source'"
        :model-value="String(step.settings[key])"
        size="small"
        :aria-label="field.label"
        placeholder="choose"
        @update:model-value="(value: string) => set(key, value)"
      >
        <el-option v-for="other in others" :key="other.id" :value="other.id" :label="other.name" />
      </el-select>
      <TextLine
        v-else-if="field.type === 'rate'"
        size="small"
        :value="String(step.settings[key])"
        :aria-label="field.label"
        @set="(value: string) => set(key, value.trim())"
      />
      <template v-else-if="field.type === 'box'">
        <div class="buttons">
          <el-button size="small" :loading="busy === key" @click="emit('find', 'content', key)">Find content</el-button>
          <el-button size="small" @click="emit('tool', key, 'box')">Draw</el-button>
          <el-button v-if="box(key)" size="small" @click="set(key, null)">Whole</el-button>
        </div>
        <div v-if="box(key)" class="sides mono">
          <label v-for="side in ['x', 'y', 'width', 'height'] as const" :key="side"
            ><span class="soft">{{ side }}</span
            ><input
              type="number"
              v-held="box(key)![side]"
              :aria-label="side"
              @change="setSide(key, side, Math.round(Number(($event.target as HTMLInputElement).value)))"
          /></label>
        </div>
      </template>
      <template v-else-if="field.type === 'shape'">
        <div class="buttons">
          <el-button size="small" @click="emit('tool', key, 'ellipse')">Ellipse</el-button>
          <el-button size="small" @click="emit('tool', key, 'rectangle')">Rectangle</el-button>
          <el-button size="small" @click="emit('tool', key, 'polygon')">Polygon</el-button>
        </div>
        <ul v-if="shapes(key).length" class="keys">
          <li v-for="shape in shapes(key)" :key="shape.frame">
            <span class="mono">frame {{ shape.frame }}, {{ shape.kind }}</span
            ><button
              class="link"
              :aria-label="`Remove the shape at frame ${shape.frame}`"
              @click="
                set(
                  key,
                  shapes(key).filter(other => other !== shape)
                )
              "
            >
              remove
            </button>
            <details class="points">
              <summary class="soft">Numbers</summary>
              <div class="sides mono">
                <template v-for="(point, n) in shape.points" :key="n">
                  <label v-for="(axis, a) in ['x', 'y']" :key="axis"
                    ><span class="soft">{{ pointName(shape, n) }} {{ axis }}</span
                    ><input
                      type="number"
                      step="0.1"
                      v-held="point[a]!"
                      :aria-label="`${pointName(shape, n)} ${axis} at frame ${shape.frame}`"
                      @change="setPoint(key, shape, [n, a], Number(($event.target as HTMLInputElement).value))"
                  /></label>
                </template>
              </div>
            </details>
          </li>
        </ul>
      </template>
      <small v-if="field.help" class="soft">{{ field.help }}</small>
    </div>
    <div v-if="kind.handle && sourceId" class="buttons">
      <el-button size="small" @click="emit('tool', '', 'handle')">{{ kind.handle.name }}</el-button>
    </div>
  </div>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 7px;
  padding: 2px 0 8px;
}

.field {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
}

.field > span:first-child {
  width: 76px;
  color: var(--soft);
  line-height: 1.2;
}

.field.wide > span:first-child,
.field small {
  width: 100%;
}

.field small {
  font-size: 11.5px;
  line-height: 1.25;
}

.field .el-select,
.field .el-input {
  flex: 1;
  min-width: 0;
}

input[type='range'] {
  flex: 1;
  min-width: 0;
  accent-color: var(--copper);
}

.number {
  width: 52px;
  background: var(--raised);
  color: var(--ink);
  border: 1px solid var(--line-strong);
  border-radius: 3px;
  padding: 1px 3px;
}

.number.alone {
  width: 76px;
}

.unit {
  width: 16px;
}

input[type='color'] {
  width: 30px;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line-strong);
}

.buttons {
  display: flex;
  gap: 4px;
}

.buttons :deep(.el-button + .el-button),
.field > :deep(.el-button + .el-button) {
  margin-left: 0;
}

.beneath {
  width: 100%;
  padding-left: 82px;
}

.sides {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 8px;
}

.sides label {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 4px;
}

.sides input {
  width: 58px;
  background: var(--raised);
  color: var(--ink);
  border: 1px solid var(--line-strong);
  border-radius: 3px;
}

.keys {
  width: 100%;
}

.keys li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
}

.points {
  width: 100%;
}

.points summary {
  cursor: pointer;
}
</style>
