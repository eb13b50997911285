<script setup lang="ts">
/** One step's settings, drawn from the fields of its kind, with what sets them in the picture. */
import FieldForm, { type FormField } from '~/components/form/FieldForm.vue'
import { computed } from 'vue'
import { useJob } from '~/stores/job'
import type { Step } from '~~/core/prepare/preparation'
import { stepKindById } from '~~/core/prepare/kinds'
import { counts } from '~~/core/base/settings/field'

const { step, sourceId, busy = null } = defineProps<{ step: Step; sourceId: string; busy?: string | null }>()
const emit = defineEmits<{
  live: [settings: Step['settings']]
  set: [settings: Step['settings']]
  tool: [field: string, kind: string]
  find: [what: 'content' | 'screen', field: string]
}>()
const jobs = useJob()
const kind = computed(() => stepKindById(step.kind))
const fields = computed<FormField[]>(() =>
  Object.entries(kind.value.fields).flatMap(([key, field]) =>
    counts(field, step.settings) ? [{ key, field, value: step.settings[key] }] : []
  )
)
const others = computed(() => jobs.sources.filter(source => source.id !== sourceId))
const now = (key: string, value: unknown): Step['settings'] => ({ ...step.settings, [key]: value })
const SHAPES = ['Ellipse', 'Rectangle', 'Polygon'] as const
</script>

<template>
  <div class="form">
    <p class="soft">{{ kind.help }}</p>
    <FieldForm
      :fields="fields"
      :others="others"
      @live="(key, value) => emit('live', now(key, value))"
      @set="(key, value) => emit('set', now(key, value))"
    >
      <template #tools="{ key, field, value }">
        <div v-if="field.type === 'colour' && sourceId" class="buttons beneath">
          <el-button size="small" @click="emit('tool', key, 'pick')" title="Pick it in the picture">Pick</el-button>
          <el-button v-if="field.found" size="small" :loading="busy === key" @click="emit('find', field.found, key)"
            >Find</el-button
          >
        </div>
        <div v-else-if="field.type === 'box'" class="buttons">
          <el-button size="small" :loading="busy === key" @click="emit('find', 'content', key)">Find content</el-button>
          <el-button size="small" @click="emit('tool', key, 'box')">Draw</el-button>
          <el-button v-if="value" size="small" @click="emit('set', now(key, null))">Whole</el-button>
        </div>
        <div v-else-if="field.type === 'shape'" class="buttons">
          <el-button
            v-for="shape in SHAPES"
            :key="shape"
            size="small"
            @click="emit('tool', key, shape.toLowerCase())"
            >{{ shape }}</el-button
          >
        </div>
      </template>
    </FieldForm>
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

.beneath {
  width: 100%;
  padding-left: 82px;
}
</style>
