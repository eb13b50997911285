<script setup lang="ts">
/** Rate, pixel shape and colour tags: what the file says, and what is taken instead by hand. */
import FieldForm from '~/components/form/FieldForm.vue'
import TextLine from '~/components/shell/TextLine.vue'
import { useModelView } from '~/composables/useModelView'
import { useSteps } from '~/composables/useSteps'
import { computed, ref } from 'vue'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import type { JobSource } from '~~/core/job/job'
import { spaceOf } from '~~/core/prepare/gamut'
import { sentenceOf } from '~~/core/base/errors'
import { mostOf, type AlphaHalf, type Halves } from '~~/core/frame/stacked'
import { formatById } from '~~/core/open/registry'
import { sayLevels } from '~~/core/source/light-levels'
import { parseRate, rateFraction } from '~~/core/base/rate'
import type { Interpretation } from '~~/core/source/source'

const { source } = defineProps<{ source: JobSource }>()
const jobs = useJob()
const sources = useSources()
const steps = useSteps()
const facts = computed(() => sources.foundFactsOf(source))
const wrong = ref<string | null>(null)
const model = useModelView(computed(() => source))
const drawnAt = computed(() => (model.isModel.value ? model.asked.value.size : facts.value.layer))
const ORIGINS = {
  file: 'from the file',
  name: 'from the file name',
  note: 'from the hand-over note',
  asked: 'by hand',
  unknown: 'nothing says it'
} as const
const COLOURS = [
  'sRGB',
  'BT.709, limited range',
  'BT.601, limited range',
  'BT.2020',
  'Display P3',
  'linear light'
] as const

async function take(label: string, changes: Partial<Interpretation>): Promise<void> {
  wrong.value = null
  await jobs.edit(label, draft => void Object.assign(draft.sources[source.id]!.interpretation, changes))
}

async function takeRate(text: string): Promise<void> {
  const rate = parseRate(text)
  if (rate) await take('Take another rate', { rate, rateFrom: 'asked' })
  else wrong.value = 'Give a rate as 25, 23.976 or 24000/1001.'
}

async function takeLayer(layer: string): Promise<void> {
  if (model.isModel.value) return model.set({}, layer)
  wrong.value = null
  await sources
    .takeFrom(source, 'Take another layer', { layer })
    .catch((error: unknown) => void (wrong.value = sentenceOf(error)))
}

/** How the picture is made up of halves, as it is taken; null where it is whole. */
const halves = computed(() => source.interpretation.stacked ?? null)
/** A film without alpha may carry it as a half of its picture. */
const mayHaveHalves = computed(
  () =>
    halves.value !== null || (source.facts.claim.mode === 'none' && formatById(source.facts.format).delivers === 'film')
)
const HALVES = [
  { value: 'none', label: 'nowhere' },
  { value: 'below', label: 'in the lower half' },
  { value: 'right', label: 'in the right half' },
  { value: 'above', label: 'in the upper half' },
  { value: 'left', label: 'in the left half' }
] as const

async function takeStacked(stacked: Halves | null): Promise<void> {
  wrong.value = null
  const label = stacked ? 'Take a half as alpha' : 'Take the picture whole'
  await sources.takeFrom(source, label, { stacked }).catch((error: unknown) => void (wrong.value = sentenceOf(error)))
}

async function takeHalf(half: string): Promise<void> {
  if (half === 'none') return takeStacked(null)
  const size = (await sources.wholeSizeOf(source)) ?? source.facts
  await takeStacked(mostOf(half as AlphaHalf, size))
}

async function takeHalfSize(text: string): Promise<void> {
  const match = /^\s*(\d{1,5})\s*[x×]\s*(\d{1,5})\s*$/.exec(text)
  if (match) await takeStacked({ ...halves.value!, width: Number(match[1]), height: Number(match[2]) })
  else wrong.value = 'Give the size that both halves make as width and height, 640x360.'
}

async function takeShape(text: string): Promise<void> {
  const match = /^\s*(\d+(?:\.\d+)?)\s*[:/]\s*(\d+(?:\.\d+)?)\s*$/.exec(text)
  const [w, h] = [Number(match?.[1]), Number(match?.[2])]
  if (w > 0 && h > 0) await take('Take another pixel shape', { pixelAspect: [w, h] })
  else wrong.value = 'Give the shape of a pixel as width:height, 1:1 or 59:54.'
}

/** The step that makes sRGB of what the colour is taken as, where one is needed and none is there yet. */
const toSrgb = computed(() =>
  source.steps.some(step => step.kind === 'bring-to-srgb')
    ? null
    : spaceOf(facts.value.colour ?? '', source.facts.colour)
)

const rateByHand = computed(() => source.interpretation.rateFrom === 'asked' && source.facts.rate !== null)
</script>

<template>
  <section class="taken">
    <h2>Taken as</h2>
    <dl>
      <dt>Rate</dt>
      <dd>
        <TextLine
          size="small"
          :value="facts.rate ? rateFraction(facts.rate) : ''"
          placeholder="f/s"
          aria-label="Rate taken"
          @set="takeRate"
        />
        <small :class="{ hand: facts.rateFrom === 'asked' }">{{ ORIGINS[facts.rateFrom] }}</small>
        <button
          v-if="rateByHand"
          class="link small"
          @click="take('Take the rate of the file', { rate: null, rateFrom: null })"
        >
          as the file says
        </button>
      </dd>
      <dt>Pixel shape</dt>
      <dd>
        <TextLine size="small" :value="facts.pixelAspect.join(':')" aria-label="Pixel shape taken" @set="takeShape" />
        <small :class="{ hand: source.interpretation.pixelAspect }">{{
          source.interpretation.pixelAspect ? 'by hand' : 'from the file'
        }}</small>
        <button
          v-if="source.interpretation.pixelAspect"
          class="link small"
          @click="take('Take the pixel shape of the file', { pixelAspect: null })"
        >
          as the file says
        </button>
      </dd>
      <template v-if="facts.layers">
        <dt>{{ facts.layersAre === 'sizes' ? 'Drawn at' : 'Layer' }}</dt>
        <dd>
          <el-select
            size="small"
            :model-value="drawnAt"
            :aria-label="facts.layersAre === 'sizes' ? 'Size it is drawn at' : 'Layer taken'"
            :filterable="facts.layersAre === 'sizes'"
            :allow-create="facts.layersAre === 'sizes'"
            @update:model-value="(layer: string) => takeLayer(layer)"
          >
            <el-option v-for="layer in facts.layers" :key="layer" :value="layer" :label="layer || 'without a name'" />
          </el-select>
          <small :class="{ hand: source.interpretation.layer !== undefined }">{{
            source.interpretation.layer !== undefined
              ? 'by hand'
              : facts.layersAre === 'sizes'
                ? 'as the file says'
                : 'the one meant to be seen'
          }}</small>
        </dd>
      </template>
      <template v-if="mayHaveHalves">
        <dt>Alpha lies</dt>
        <dd>
          <el-select
            size="small"
            :model-value="halves?.alpha ?? 'none'"
            aria-label="Where alpha lies in the picture"
            @update:model-value="(half: string) => takeHalf(half)"
          >
            <el-option v-for="half in HALVES" :key="half.value" :value="half.value" :label="half.label" />
          </el-select>
          <TextLine
            v-if="halves"
            size="small"
            :value="`${halves.width}x${halves.height}`"
            aria-label="Size that the halves make"
            @set="takeHalfSize"
          />
          <small v-if="halves">colour lies in the other</small>
        </dd>
      </template>
      <dt>Colour</dt>
      <dd>
        <el-select
          size="small"
          :model-value="facts.colour ?? ''"
          placeholder="no tags"
          aria-label="Colour taken"
          @update:model-value="(colour: string) => take('Take other colour tags', { colour })"
        >
          <el-option
            v-if="facts.colour && !(COLOURS as readonly string[]).includes(facts.colour)"
            :value="facts.colour"
            :label="facts.colour"
          />
          <el-option v-for="colour in COLOURS" :key="colour" :value="colour" :label="colour" />
        </el-select>
        <small :class="{ hand: source.interpretation.colour }">{{
          source.interpretation.colour ? 'by hand' : facts.colour ? 'from the file' : 'the file says nothing'
        }}</small>
        <small v-if="facts.levels">{{ sayLevels(facts.levels) }}</small>
        <button
          v-if="source.interpretation.colour"
          class="link small"
          @click="take('Take the colour tags of the file', { colour: null })"
        >
          as the file says
        </button>
        <button
          v-if="toSrgb"
          class="link small"
          title="Tags say what codes mean; this changes the codes"
          @click="steps.add(source.id, 'Bring colour to sRGB', 'bring-to-srgb', { from: toSrgb })"
        >
          bring it to sRGB
        </button>
      </dd>
    </dl>
    <details v-if="model.isModel.value" class="looked">
      <summary>How it is looked at</summary>
      <FieldForm :fields="model.fields.value" @set="(key, value) => model.set({ [key]: value })" />
    </details>
    <p v-if="wrong || model.wrong.value" class="wrong" role="alert">{{ wrong || model.wrong.value }}</p>
  </section>
</template>

<style scoped>
.taken {
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.looked summary {
  cursor: pointer;
  color: var(--soft);
}

dl {
  display: grid;
  grid-template-columns: 76px 1fr;
  gap: 6px 8px;
  align-items: start;
}

dt {
  color: var(--soft);
  padding-top: 3px;
}

small {
  color: var(--soft);
  margin-right: 8px;
}

.hand {
  color: var(--copper);
  font-weight: 600;
}

.small {
  font-size: 12px;
}

.wrong {
  color: var(--brick);
}
</style>
