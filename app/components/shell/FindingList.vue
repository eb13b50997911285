<script setup lang="ts">
/** Findings with their mends; those that are mended say so, and can be taken back. */
import type { FindingState } from '~~/core/judge/examine/standing'
import type { Finding } from '~~/core/source/source'

const { findings, standing = null } = defineProps<{
  findings?: readonly Finding[]
  standing?: readonly FindingState[] | null
  frames?: boolean
}>()
defineEmits<{
  mend: [finding: Finding, chosen?: Finding['mend']]
  takeBack: [finding: Finding]
  frame: [index: number]
}>()
const WORDS = { fault: 'Fault', warning: 'Warning', note: 'Note' } as const
const DONE = { mended: 'Done: ', gone: 'No longer so: ', stands: '', brought: 'Since prepared: ' } as const
const shown = (): readonly FindingState[] =>
  standing ?? (findings ?? []).map(finding => ({ finding, state: 'stands' as const }))
</script>

<template>
  <ul class="findings">
    <li
      v-for="{ finding, state } in shown()"
      :key="finding.id + finding.sentence"
      :class="[finding.severity, state]"
      :data-finding="finding.id"
      :data-state="state"
    >
      <span class="visually-hidden">{{ WORDS[finding.severity] }}: </span
      ><strong v-if="DONE[state]">{{ DONE[state] }}</strong
      >{{ state === 'mended' ? finding.mend?.label : finding.sentence }}<span v-if="state === 'mended'">.</span
      ><span v-if="finding.causes && (state === 'stands' || state === 'brought')" class="soft">{{
        ` ${finding.causes}`
      }}</span>
      <span class="acts">
        <button
          v-if="state === 'mended'"
          class="link"
          :aria-label="`Take back: ${finding.mend?.label}`"
          @click="$emit('takeBack', finding)"
        >
          Take back
        </button>
        <button v-else-if="finding.mend && state !== 'gone'" class="link" @click="$emit('mend', finding)">
          {{ finding.mend.label }}
        </button>
        <button
          v-if="finding.orElse && (state === 'stands' || state === 'brought')"
          class="link"
          @click="$emit('mend', finding, finding.orElse)"
        >
          {{ finding.orElse.label }}
        </button>
        <button
          v-if="frames && finding.frames.length && state !== 'gone'"
          class="link"
          @click="$emit('frame', finding.frames[0]! - 1)"
        >
          Show frame {{ finding.frames[0] }}
        </button>
      </span>
    </li>
  </ul>
</template>

<style scoped>
.findings {
  display: flex;
  flex-direction: column;
  gap: 9px;
}

li {
  border-left: 3px solid var(--verdigris-fill);
  padding: 1px 0 1px 9px;
  overflow-wrap: anywhere;
}

li.fault {
  border-color: var(--brick);
}

li.warning {
  border-color: var(--ochre-fill);
}

li.mended,
li.gone {
  border-color: var(--line);
  color: var(--soft);
}

.acts {
  display: flex;
  gap: 12px;
}
</style>
