<script setup lang="ts">
/** A row's head: filmstrip, name, facts, and the gravest finding. */
import FilmStrip from '~/components/board/FilmStrip.vue'
import { sayFrames } from '~/composables/say'
import { computed } from 'vue'
import { useSources } from '~/stores/sources'
import { sayAlpha } from '~~/core/job/outlet/outlet'
import type { JobSource } from '~~/core/job/job'
import { findingKind } from '~~/core/source/finding-kinds'
import { formatRate } from '~~/core/base/rate'

const { source } = defineProps<{ source: JobSource; chosen: boolean }>()
defineEmits<{ choose: []; open: [] }>()

const sources = useSources()
const state = computed(() => sources.states.get(source.id))
const facts = computed(() => sources.factsOf(source))
/** All of the facts, for whoever points at what does not fit. */
const whole = computed(() => {
  const { width, height, rate, frames } = facts.value
  return `${width}×${height}, ${rate ? `${formatRate(rate)} frames/s, ` : ''}${sayFrames(frames)}`
})
const examination = computed(() => sources.examinations.get(source.id))
const mode = computed(() => {
  const taken = sources.modeOf(source)
  return taken
    ? sayAlpha(taken).replace('premultiplied', 'premult.')
    : sources.looking.has(source.id)
      ? 'reading'
      : facts.value.claim.mode
})
/** Those that still stand, once the preparation is taken into account. */
const findings = computed(() => {
  const rank = { fault: 0, warning: 1, note: 2 }
  return sources
    .standingOf(source)
    .filter(({ state }) => state === 'stands' || state === 'brought')
    .map(({ finding }) => finding)
    .sort((a, b) => rank[a.severity] - rank[b.severity])
})
/** Steps of the preparation that are on. */
const steps = computed(() => source.steps.filter(step => step.on).length)
const gravest = computed(() => findings.value.find(f => f.severity !== 'note'))
</script>

<template>
  <div class="head" :class="{ chosen }">
    <button
      class="plain body"
      :aria-pressed="chosen"
      :title="`${source.name}: ${whole}. Shows in the inspector; a double click opens the bench.`"
      @click="$emit('choose')"
      @dblclick="$emit('open')"
    >
      <FilmStrip :spec="sources.specOf(source)" :frames="facts.frames" :width="51" :height="31" />
      <span class="text">
        <strong>{{ source.name }}</strong>
        <span class="mono soft"
          >{{ facts.width }}×{{ facts.height
          }}<template v-if="facts.rate"> · {{ formatRate(facts.rate) }} f/s</template> · {{ facts.frames }}</span
        >
        <span class="mono soft"
          ><template v-if="!steps">{{ mode }} · </template>{{ facts.bitDepth }} bit<template v-if="steps">
            · {{ steps }} {{ steps === 1 ? 'step' : 'steps' }}</template
          ></span
        >
        <span v-if="state?.state === 'failed'" class="tag fault">cannot be read</span>
        <span v-else-if="sources.unexamined.has(source.id)" class="tag warning">not looked at</span>
        <span v-else-if="state?.state === 'locked'" class="tag warning">must be allowed again</span>
        <span v-else-if="gravest" class="tag" :class="gravest.severity" :title="gravest.sentence"
          >{{ findingKind(gravest.id).tag ?? gravest.id.replaceAll('-', ' ')
          }}<template v-if="findings.length > 1"> +{{ findings.length - 1 }}</template></span
        >
        <span v-else-if="sources.looking.has(source.id)" class="tag note"
          >{{ sources.looking.get(source.id) }} of {{ facts.frames }} looked at</span
        >
        <span v-else-if="examination" class="tag good">nothing amiss</span>
      </span>
    </button>
  </div>
</template>

<style scoped>
.head {
  background: var(--panel);
  height: 100%;
}

.head.chosen {
  box-shadow: inset 3px 0 0 var(--copper);
}

.body {
  display: flex;
  gap: 9px;
  padding: 9px 6px 9px 12px;
  width: 100%;
  height: 100%;
  align-items: flex-start;
}

/* what does not fit ends in dots, before the next column */
.text {
  flex: 1;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 1px;
  min-width: 0;
}

.text strong,
.text .mono {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

/* the widest of the usual fits: 1920×1080 · 29.97 f/s · 300 */
.text .mono {
  font-size: 11.5px;
  letter-spacing: -0.045em;
}

.text .tag {
  margin-top: 3px;
}
</style>
