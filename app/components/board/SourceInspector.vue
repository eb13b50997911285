<script setup lang="ts">
/** The inspector for a source: facts, how its alpha is taken, findings with mends. */
import FilmStrip from '~/components/board/FilmStrip.vue'
import FindingList from '~/components/shell/FindingList.vue'
import ModePanel from '~/components/bench/ModePanel.vue'
import OutletSizes from '~/components/board/OutletSizes.vue'
import { sayBytes, sayFrames } from '~/composables/say'
import { useMends } from '~/composables/useMends'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { MOST_NAME } from '~~/core/job/names'
import { sayLevels } from '~~/core/source/light-levels'
import { rateFraction } from '~~/core/base/rate'
import { saySound, soundsOf } from '~~/core/source/sound'

const { id } = defineProps<{ id: string }>()
const jobs = useJob()
const sources = useSources()
const desk = useDesk()
const router = useRouter()
const { mend, takeBack } = useMends()
const source = computed(() => jobs.job.sources[id])
const standing = computed(() => (source.value ? sources.standingOf(source.value) : []))
const state = computed(() => sources.states.get(id))
const facts = computed(() => source.value && sources.factsOf(source.value))
const examination = computed(() => sources.examinations.get(id))
const name = ref('')
watch(
  () => source.value?.name,
  value => (name.value = value ?? ''),
  { immediate: true }
)

async function rename(): Promise<void> {
  const wanted = name.value.trim()
  if (!wanted || wanted === source.value?.name) name.value = source.value?.name ?? ''
  else await jobs.renameSources(new Map([[id, wanted.slice(0, MOST_NAME)]]))
}

async function remove(): Promise<void> {
  desk.choice = null
  await jobs.removeSources(new Set([id]))
}
</script>

<template>
  <div v-if="source && facts" class="stack">
    <el-input v-model="name" aria-label="Name of the source" @change="rename" />
    <FilmStrip :spec="sources.specOf(source)" :frames="facts.frames" :width="117" :height="66" />
    <p v-if="state?.state === 'failed'" class="note brick" role="alert">
      {{ state.sentence }} <button class="link" @click="sources.lookAgain(id)">Try again</button>
    </p>
    <p v-else-if="sources.unexamined.has(id)" class="note ochre" role="alert">
      It was not looked at: {{ sources.unexamined.get(id) }}
      <button class="link" @click="sources.lookAgain(id)">Look at it</button>
    </p>
    <p v-if="state?.state === 'locked'" class="note ochre">
      {{ state.sentence }} <button class="link" @click="sources.unlock(id)">Allow reading</button>
    </p>
    <dl class="fact-list">
      <dt>Kind</dt>
      <dd>{{ facts.kind }}</dd>
      <dt>Size</dt>
      <dd class="mono">{{ facts.width }}×{{ facts.height }}, {{ sayBytes(facts.bytes) }}</dd>
      <dt>Length</dt>
      <dd class="mono">
        {{ sayFrames(facts.frames)
        }}<template v-if="facts.rate"
          >, {{ Math.round((facts.frames * facts.rate[1] * 100) / facts.rate[0]) / 100 }} s</template
        >
      </dd>
      <template v-if="facts.timecode">
        <dt>Starts at</dt>
        <dd class="mono">{{ facts.timecode }}</dd>
      </template>
      <template v-if="facts.sound">
        <dt>Sound</dt>
        <dd>
          <div v-for="(track, n) in soundsOf(facts)" :key="n">
            {{ saySound(track) }}<template v-if="track.leftOut">; left out, {{ track.leftOut }}</template>
          </div>
        </dd>
      </template>
      <dt>Rate</dt>
      <dd>
        <template v-if="facts.rate"
          >{{ rateFraction(facts.rate) }} f/s, from the
          {{ facts.rateFrom === 'asked' ? 'answer given' : facts.rateFrom }}</template
        ><template v-else>not known</template> {{ ' '
        }}<button class="link" @click="sources.asking = [id]">{{ facts.rate ? 'Change' : 'Give it' }}</button>
      </dd>
      <dt>Depth</dt>
      <dd>{{ facts.bitDepth }} bit</dd>
      <dt>The file says</dt>
      <dd>{{ facts.claim.says }}</dd>
      <dt>Colour tags</dt>
      <dd>
        {{ facts.colour ?? 'none' }}<template v-if="facts.levels">; {{ sayLevels(facts.levels) }}</template>
      </dd>
    </dl>
    <ModePanel :source="source" />
    <OutletSizes :source-id="id" />
    <template v-if="examination">
      <h2>Findings</h2>
      <FindingList
        v-if="standing.length"
        :standing="standing"
        @mend="(finding, chosen) => mend(id, finding, chosen)"
        @take-back="takeBack(id, $event)"
      />
      <p v-else class="soft">Nothing amiss.</p>
    </template>
    <p v-else-if="sources.looking.has(id)" class="soft">
      {{ sources.looking.get(id) }} of {{ sayFrames(facts.frames) }} looked at.
    </p>
    <div class="acts">
      <el-button size="small" type="primary" @click="router.push(`/bench?source=${id}`)">Open on the bench</el-button>
      <el-button size="small" text @click="remove">Remove source</el-button>
    </div>
  </div>
</template>

<style scoped>
dt {
  color: var(--soft);
}

dd {
  overflow-wrap: anywhere;
}

.note {
  padding: 8px 10px;
  border-radius: 3px;
}

.ochre {
  background: var(--ochre-wash);
  color: var(--ochre);
}

.brick {
  background: var(--brick-wash);
  color: var(--brick);
}

.acts .el-button {
  margin: 0 6px 0 0;
}
</style>
