<script setup lang="ts">
/** What became of the source, in four short steps from source to file; a step is opened to read all its lines. */
import { computed, ref } from 'vue'
import { STAGES, STAGE_NAMES, type LedgerLine, type Stage } from '~~/core/judge/ledger/ledger'

const { lines } = defineProps<{ lines: readonly LedgerLine[] }>()
const open = ref<Stage | null>(null)

const RANK = { none: 0, note: 1, loss: 2, broken: 3 } as const
const GLYPHS = { none: '✓', note: '·', loss: '!', broken: '×' } as const
const COST = { none: 'nothing lost', note: 'to know', loss: 'lost', broken: 'broken' } as const

/** What is asked for weighs less than what nobody asked for. */
const weight = (line: LedgerLine): number => RANK[line.severity] - (line.asked ? 0.5 : 0)

const steps = computed(() =>
  STAGES.map(stage => {
    const own = lines.filter(line => line.stage === stage)
    const worst = own.reduce((a, b) => (weight(b) > weight(a) ? b : a), own[0]!)
    return { stage, own, worst }
  }).filter(step => step.own.length > 0)
)
const opened = computed(() => steps.value.find(step => step.stage === open.value)?.own ?? [])
const tone = (line: LedgerLine): string => (line.asked && line.severity === 'loss' ? 'note' : line.severity)
</script>

<template>
  <section class="ledger" aria-label="From source to file">
    <ol>
      <li v-for="{ stage, own, worst } in steps" :key="stage">
        <button
          class="plain step"
          :class="tone(worst)"
          :aria-expanded="open === stage"
          :data-stage="stage"
          :title="worst.sentence"
          @click="open = open === stage ? null : stage"
        >
          <span class="name"
            ><i class="glyph" aria-hidden="true">{{ GLYPHS[worst.severity] }}</i
            >{{ STAGE_NAMES[stage] }}
            <span class="cost"
              >{{ COST[worst.severity] }}{{ worst.asked && worst.severity !== 'none' ? ', as asked' : '' }}</span
            ></span
          >
          <span class="what">{{ worst.sentence }}</span>
          <span v-if="own.length > 1" class="more soft">and {{ own.length - 1 }} more</span>
        </button>
      </li>
    </ol>
    <ul v-if="opened.length" class="all">
      <li v-for="line in opened" :key="line.id + line.sentence" :class="tone(line)">
        <i class="glyph" aria-hidden="true">{{ GLYPHS[line.severity] }}</i><span
          ><strong v-if="line.severity !== 'none'"
            >{{ COST[line.severity] }}{{ line.asked ? ', as asked' : '' }}:
          </strong>
          {{ line.sentence }}</span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.ledger {
  flex: none;
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: var(--radius);
}

ol,
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

ol {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: minmax(0, 1fr);
}

ol > li + li {
  border-left: 1px solid var(--line);
}

.step {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  justify-content: flex-start;
  width: 100%;
  height: 100%;
  padding: 6px 12px 7px;
  text-align: left;
}

.name {
  display: flex;
  align-items: baseline;
  gap: 6px;
  font-weight: 500;
}

.cost {
  font-weight: 400;
  color: var(--soft);
}

.glyph {
  width: 12px;
  font-style: normal;
  font-weight: 600;
  color: var(--verdigris);
}

.note .glyph {
  color: var(--soft);
}

.loss .glyph,
.loss .cost {
  color: var(--ochre);
}

.broken .glyph,
.broken .cost {
  color: var(--brick);
}

.what {
  display: -webkit-box;
  overflow: hidden;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
}

.more {
  font-size: 12px;
}

.all {
  border-top: 1px solid var(--line);
  padding: 8px 12px;
  max-height: 120px;
  overflow: auto;
}

.all li {
  display: flex;
  gap: 6px;
}
</style>
