<script setup lang="ts">
/**
 * What an outlet does to every source on its way: steps of the same kinds as on the bench, as far as they need no
 * picture to be set.
 */
import StepForm from '~/components/bench/StepForm.vue'
import { computed } from 'vue'
import { outletKinds } from '~~/core/job/outlet/own-steps'
import { stepKindById } from '~~/core/prepare/kinds'
import { newStep, type Step } from '~~/core/prepare/preparation'

const { steps } = defineProps<{ steps: readonly Step[] }>()
const emit = defineEmits<{ set: [steps: Step[]] }>()
const named = computed(() => steps.map(step => ({ step, kind: stepKindById(step.kind) })))

function add(kindId: string): void {
  emit('set', [...steps, newStep(crypto.randomUUID(), stepKindById(kindId))])
}

const without = (step: Step): Step[] => steps.filter(other => other.id !== step.id)
const changed = (step: Step, changes: Partial<Step>): Step[] =>
  steps.map(other => (other.id === step.id ? { ...other, ...changes } : other))

function earlier(at: number): Step[] {
  const next = [...steps]
  const [step] = next.splice(at, 1)
  next.splice(at - 1, 0, step!)
  return next
}
</script>

<template>
  <div class="steps">
    <p v-if="!steps.length" class="soft">
      Without steps, size, rate and pixel shape are those of the source. One source can give a large film, a small GIF
      and a sequence at half the rate, each through an outlet of its own.
    </p>
    <ol v-else>
      <li v-for="({ step, kind }, n) in named" :key="step.id">
        <div class="head">
          <el-switch
            :model-value="step.on"
            size="small"
            :aria-label="`${kind.name} is done`"
            @change="on => emit('set', changed(step, { on: Boolean(on) }))"
          />
          <strong>{{ kind.name }}</strong>
          <span class="spring" />
          <button
            v-if="n > 0"
            class="link small"
            :aria-label="`Do ${kind.name} earlier`"
            @click="emit('set', earlier(n))"
          >
            earlier
          </button>
          <button class="link small" :aria-label="`Remove ${kind.name}`" @click="emit('set', without(step))">
            remove
          </button>
        </div>
        <StepForm
          v-if="step.on"
          :step="step"
          source-id=""
          @live="settings => emit('set', changed(step, { settings }))"
          @set="settings => emit('set', changed(step, { settings }))"
        />
      </li>
    </ol>
    <el-dropdown trigger="click" @command="add">
      <el-button size="small">Add a step…</el-button>
      <template #dropdown>
        <el-dropdown-menu>
          <template v-for="{ group, kinds } in outletKinds" :key="group">
            <li class="group">{{ group }}</li>
            <el-dropdown-item v-for="kind in kinds" :key="kind.id" :command="kind.id" :title="kind.help">{{
              kind.name
            }}</el-dropdown-item>
          </template>
        </el-dropdown-menu>
      </template>
    </el-dropdown>
  </div>
</template>

<style scoped>
.steps ol {
  padding: 0;
  margin: 0 0 8px;
  list-style: none;
}

.steps li {
  max-width: 420px;
}

.steps ol li {
  padding-bottom: 6px;
  margin-bottom: 8px;
  border-bottom: 1px solid var(--line);
}

.head {
  display: flex;
  align-items: center;
  gap: 8px;
}

.group {
  padding: 4px 16px 0;
  font-size: 12px;
  color: var(--soft);
}
</style>
