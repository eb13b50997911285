<script setup lang="ts">
/** What stands behind the picture in the viewer: swatches, the colour of one, and the source of another. */
import { BACKDROPS, type Backdrop } from './backdrops'
import type { OwnBackdrop } from '~/composables/useOwnBackdrop'

const { own } = defineProps<{ own: OwnBackdrop }>()
const backdrop = defineModel<Backdrop>('backdrop', { required: true })
const colour = defineModel<string>('colour', { required: true })
</script>

<template>
  <span class="soft word">Backdrop</span>
  <button
    v-for="(b, n) in BACKDROPS"
    :key="b.id"
    class="plain swatch"
    :class="[b.id, { on: backdrop === b.id }]"
    :style="b.id === 'colour' ? { background: colour } : {}"
    :title="`${b.name} (${n + 1})`"
    :aria-label="`Backdrop: ${b.name}`"
    :aria-pressed="backdrop === b.id"
    @click="backdrop = b.id"
  />
  <input v-if="backdrop === 'colour'" v-model="colour" type="color" aria-label="Backdrop colour" />
  <el-select
    v-if="backdrop === 'own'"
    size="small"
    class="own-source"
    placeholder="Which source?"
    aria-label="Source behind the picture"
    :model-value="own.id.value"
    @update:model-value="(id: string) => own.choose(id)"
  >
    <el-option v-for="each in own.choices.value" :key="each.id" :value="each.id" :label="each.name" />
  </el-select>
</template>

<style scoped>
.own-source {
  width: 104px;
  flex: none;
}

.swatch {
  width: 22px;
  height: 22px;
  flex: none;
  border: 1px solid var(--line-strong);
  border-radius: 3px;
}

.swatch.on {
  box-shadow:
    0 0 0 2px var(--panel),
    0 0 0 4px var(--copper);
}

.swatch.checker {
  background: conic-gradient(#cbcbcb 25%, #fff 0 50%, #cbcbcb 0 75%, #fff 0) 0 0 / 10px 10px;
}

.swatch.fine-checker {
  background: conic-gradient(#cbcbcb 25%, #fff 0 50%, #cbcbcb 0 75%, #fff 0) 0 0 / 5px 5px;
}

.swatch.black {
  background: #000;
}

.swatch.white {
  background: #fff;
}

.swatch.grey {
  background: #808080;
}

.swatch.own {
  background: linear-gradient(135deg, var(--ground) 50%, var(--copper-fill) 50%);
}

.swatch.picture,
.swatch.moving {
  background: linear-gradient(#27405e, #d9a06a 60%, #20341f);
}

.swatch.moving {
  border-style: dashed;
}

input[type='color'] {
  width: 28px;
  height: 22px;
  padding: 0;
  border: 1px solid var(--line-strong);
}

@container tools (width < 760px) {
  .word {
    display: none;
  }

  .swatch {
    width: 17px;
    height: 19px;
  }
}
</style>
