<script setup lang="ts">
/** Which mode is it? The answer with its evidence, and the choice to overrule it. */
import { computed, ref, watch } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { sayAlpha } from '~~/core/job/outlet/outlet'
import type { JobSource } from '~~/core/job/job'
import type { AlphaMode } from '~~/core/frame/frame'

const { source, figures = false } = defineProps<{ source: JobSource; figures?: boolean }>()
const jobs = useJob()
const sources = useSources()
const answer = computed(() => sources.examinations.get(source.id)?.alpha ?? null)
const taken = computed(() => sources.modeOf(source))
const decided = computed(() => source.interpretation.alpha !== null)
const choice = computed(() => source.interpretation.alpha?.mode ?? 'evidence')
const count = (value: number): string => value.toLocaleString('en')
const matte = ref('#000000')
watch(
  () => source.interpretation.alpha,
  alpha => {
    if (alpha?.mode === 'premultiplied') matte.value = alpha.matte
  },
  { immediate: true }
)

async function decide(mode: string): Promise<void> {
  const alpha: AlphaMode | null =
    mode === 'evidence'
      ? null
      : mode === 'premultiplied'
        ? { mode, matte: matte.value }
        : { mode: mode as 'straight' | 'none' }
  await jobs.edit('Choose the alpha mode', draft => void (draft.sources[source.id]!.interpretation.alpha = alpha))
}
</script>

<template>
  <section class="mode">
    <h2>Which mode is it?</h2>
    <p v-if="answer" class="answer" :class="{ decided }">
      <strong>{{ taken ? sayAlpha(taken) : '' }}</strong><template v-if="decided">, decided by hand.</template
      ><template v-else-if="answer.mode !== 'unknown' && answer.mode !== 'none'"
        >, {{ Math.round(answer.confidence * 100) }} % sure.</template
      >
      {{ answer.evidence.sentence }}
    </p>
    <p v-else class="soft">Being looked at.</p>
    <dl v-if="figures && answer && answer.mode !== 'none'" class="mono">
      <dt>colour where clear</dt>
      <dd>{{ answer.evidence.clearPixels ? (answer.evidence.clearColour ?? 'a picture') : 'no clear pixel' }}</dd>
      <dt>not possible if premultiplied</dt>
      <dd>{{ count(answer.evidence.impossiblePixels) }} px</dd>
      <dt><i class="straight" />edges mixed as straight</dt>
      <dd>{{ count(answer.evidence.votesStraight) }}</dd>
      <dt><i class="premultiplied" />as premultiplied</dt>
      <dd>{{ count(answer.evidence.votesPremultiplied) }}</dd>
      <dt><i class="straight" />fades that keep their colour</dt>
      <dd>{{ count(answer.evidence.fadesStraight) }}</dd>
      <dt><i class="premultiplied" />that turn to the matte</dt>
      <dd>{{ count(answer.evidence.fadesPremultiplied) }}</dd>
    </dl>
    <label class="overrule">
      <span class="soft">Take it as</span>
      <el-select :model-value="choice" size="small" aria-label="Take the alpha as" @update:model-value="decide">
        <el-option value="evidence" label="what the evidence says" />
        <el-option value="straight" label="straight" />
        <el-option value="premultiplied" label="premultiplied" />
        <el-option value="none" label="no alpha" />
      </el-select>
      <input
        v-if="choice === 'premultiplied'"
        v-model="matte"
        type="color"
        aria-label="Matte colour"
        @change="decide('premultiplied')"
      />
    </label>
  </section>
</template>

<style scoped>
/* the colours of the votes in the view of what decided the mode */
i {
  display: inline-block;
  width: 9px;
  height: 9px;
  margin-right: 5px;
}

i.straight {
  background: #d88b5c;
}

i.premultiplied {
  background: #58b3a2;
}

.mode {
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.answer {
  padding: 8px 10px;
  border-radius: 3px;
  background: var(--verdigris-wash);
  color: var(--verdigris);
}

.answer.decided {
  background: var(--copper-wash);
  color: var(--copper);
}

dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 8px;
  color: var(--soft);
}

dd {
  color: var(--ink);
}

.overrule {
  display: flex;
  align-items: center;
  gap: 8px;
  white-space: nowrap;
}

input[type='color'] {
  width: 32px;
  height: 24px;
  padding: 0;
  border: 1px solid var(--line-strong);
  background: none;
}
</style>
