<script setup lang="ts">
/** Findings with their mends. */
import type { Finding, Mend } from '~~/core/source/source'

defineProps<{ findings: readonly Finding[]; frames?: boolean }>()
defineEmits<{ mend: [mend: Mend]; frame: [index: number] }>()
const WORDS = { fault: 'Fault', warning: 'Warning', note: 'Note' } as const
</script>

<template>
  <ul class="findings">
    <li v-for="finding in findings" :key="finding.id + finding.sentence" :class="finding.severity">
      <span class="visually-hidden">{{ WORDS[finding.severity] }}: </span>{{ finding.sentence
      }}<span v-if="finding.causes" class="soft">{{ ` ${finding.causes}` }}</span>
      <span class="acts">
        <button v-if="finding.mend" class="link" @click="$emit('mend', finding.mend)">{{ finding.mend.label }}</button>
        <button v-if="frames && finding.frames.length" class="link" @click="$emit('frame', finding.frames[0]! - 1)">
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

.acts {
  display: flex;
  gap: 12px;
}
</style>
