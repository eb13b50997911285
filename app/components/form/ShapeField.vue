<script setup lang="ts">
/** A shape at one frame or several: what stands at which, by numbers, and taken away again. */
import { vHeld } from '~/composables/held'
import type { ShapeAt } from '~~/core/base/settings/shape'

const { shapes } = defineProps<{ shapes: readonly ShapeAt[] }>()
const emit = defineEmits<{ set: [shapes: ShapeAt[]] }>()

/** What a point is called: a corner of the box around an ellipse or a rectangle, or its number. */
const pointName = ({ kind: of }: ShapeAt, n: number): string =>
  of === 'polygon' ? `${n + 1}` : n === 0 ? 'from' : 'to'

function setPoint(shape: ShapeAt, [n, axis]: [number, number], event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  if (!Number.isFinite(value)) return
  const points = shape.points.map((point, i) =>
    i === n ? (axis === 0 ? [value, point[1]] : [point[0], value]) : [...point]
  ) as [number, number][]
  emit(
    'set',
    shapes.map(other => (other === shape ? { ...shape, points } : other))
  )
}

const remove = (shape: ShapeAt): void =>
  emit(
    'set',
    shapes.filter(other => other !== shape)
  )
</script>

<template>
  <ul v-if="shapes.length" class="keys">
    <li v-for="shape in shapes" :key="shape.frame">
      <span class="mono">frame {{ shape.frame }}, {{ shape.kind }}</span
      ><button class="link" :aria-label="`Remove the shape at frame ${shape.frame}`" @click="remove(shape)">
        remove
      </button>
      <details>
        <summary class="soft">Numbers</summary>
        <div class="numbers mono">
          <template v-for="(point, n) in shape.points" :key="n">
            <label v-for="(axis, a) in ['x', 'y']" :key="axis"
              ><span class="soft">{{ pointName(shape, n) }} {{ axis }}</span
              ><input
                type="number"
                step="0.1"
                v-held="point[a]!"
                :aria-label="`${pointName(shape, n)} ${axis} at frame ${shape.frame}`"
                @change="event => setPoint(shape, [n, a], event)"
            /></label>
          </template>
        </div>
      </details>
    </li>
  </ul>
</template>

<style scoped>
.keys,
details {
  width: 100%;
}

li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
}

summary {
  cursor: pointer;
}
</style>
