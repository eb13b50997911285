<script setup lang="ts">
/** All pours of one source side by side: size, errors, stations, and which serves which destination best. */
import ChartBox from '~/components/shell/ChartBox.vue'
import { sayBytes } from '~/composables/say'
import { withOwnSteps } from '~~/core/job/outlet/own-steps'
import type { ChartConfiguration } from 'chart.js'
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import type { Palette } from '~/components/shell/ChartBox.vue'
import PageReader from './PageReader.vue'
import { resultBlobs, type StoredResult } from '~/db/database'
import { useJob } from '~/stores/job'
import { useSources } from '~/stores/sources'
import { usePours } from '~/stores/pours'
import { playsAsked } from '~~/core/judge/proof/expectation'
import { useWorkshop } from '~/stores/workshop'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import { formatById } from '~~/core/open/registry'
import { splitCell } from '~~/core/job/job'
import { rank, type Contender } from '~~/core/judge/proof/rank'
import { storedFacts } from '~~/core/open/stored'
import { flatScene } from '~~/core/judge/stations/scene'
import type { StationVerdict } from '~~/core/judge/stations/station'
import { stations } from '~~/core/judge/stations/stations'
import { halvesHow } from '~~/core/run/handover/halves-page'

const { sourceId, chosen } = defineProps<{ sourceId: string; chosen: string }>()
defineEmits<{ open: [id: string] }>()
const pours = usePours()
const workshop = useWorkshop()
const jobs = useJob()
const sources = useSources()
const failure = ref<string | null>(null)

const results = computed(() =>
  [...pours.latest.values()].filter(r => r.report && splitCell(r.cell).sourceId === sourceId)
)
const stood = shallowRef(new Map<string, Record<string, StationVerdict | null>>())

/** Longer clips are not played by the browser for the table alone; its own station does it when asked. */
const MOST_PLAYED = 300
const BACKDROP = '#4a7ba6'
const reader = ref<InstanceType<typeof PageReader> | null>(null)

/**
 * Takes the delivery to every painting station at its worst frame, and lets this browser play it where a page would.
 */
async function take(result: StoredResult, signal: AbortSignal): Promise<void> {
  const spec = await pours.deliveredAsKnown(result)
  const facts = await storedFacts(spec, await workshop.host())
  const due = result.plan.due.alpha
  const index = (result.report?.worstFrame ?? Math.ceil(facts.frames / 2)) - 1
  const source = jobs.job.sources[splitCell(result.cell).sourceId]
  const own = source && !pours.outOfDate(result) ? sources.specOf(source) : null
  const whole = own && withOwnSteps(own, result.plan.steps)
  const reference = whole ? { spec: whole, index: result.plan.frames[index] ?? 0 } : null
  const found: Record<string, StationVerdict | null> = {}
  await Promise.all(
    stations.map(async station => {
      if (station.refuses({ facts, due })) found[station.id] = null
      else if (station.kind === 'picture')
        found[station.id] = (
          await workshop.pool.run(
            'station',
            [{ station: station.id, delivered: spec, index, due, scene: flatScene(BACKDROP), reference }],
            { signal, priority: 'later' }
          )
        ).standing
    })
  )
  stood.value = new Map(stood.value).set(result.id, found)
  const browser = stations.find(station => station.kind === 'browser')!
  if (found[browser.id] === null || facts.frames > MOST_PLAYED || formatById(facts.format).delivers === 'pictures')
    return
  const [first] = await resultBlobs(result)
  if (!reader.value) return
  let played: StationVerdict = 'wrong'
  try {
    played = (
      await reader.value.play(
        {
          file: first!.blob,
          type: formatById(facts.format).mime,
          halves: facts.stacked ? halvesHow(facts.stacked, due) : null,
          due: { frames: facts.frames, rate: facts.rate, plays: playsAsked(result.plan) ?? facts.plays },
          delivered: spec,
          source: whole ? { spec: whole, frames: result.plan.frames } : null,
          backdrop: BACKDROP
        },
        workshop.pool,
        () => undefined,
        signal
      )
    ).standing
  } catch (error) {
    // what this browser cannot read is wrong there, and the next outlet is still taken
    if (isAbort(error)) throw error
  }
  stood.value = new Map(stood.value).set(result.id, { ...found, [browser.id]: played })
}

watch(
  () => results.value.map(r => r.id).join(),
  async (_now, _before, onCleanup) => {
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    failure.value = null
    await nextTick()
    try {
      for (const result of results.value) if (!stood.value.has(result.id)) await take(result, stop.signal)
    } catch (error) {
      if (!isAbort(error)) failure.value = sentenceOf(error)
    }
  },
  { immediate: true }
)

interface Row {
  result: StoredResult
  name: string
  alpha: number
  colour: number
  edge: number
  /** Names of stations: where it is right as it is, where once something is set, and the others. */
  right: string[]
  setting: string[]
  other: string[]
  broken: boolean
  best: string[]
}

const contenders = computed<Contender[]>(() =>
  results.value.map(r => ({
    id: r.id,
    name: jobs.job.outlets[splitCell(r.cell).outletId]?.name ?? r.plan.outlet.name,
    format: r.plan.outlet.format,
    bytes: r.bytes,
    carriesAlpha: r.plan.due.alpha.mode !== 'none',
    report: r.report!,
    stations: stood.value.get(r.id) ?? {}
  }))
)
const ranked = computed(() => rank(contenders.value))
const rows = computed<Row[]>(() =>
  results.value.map((result, i) => {
    const report = result.report!
    const most = (pick: (f: (typeof report.frames)[number]) => number): number =>
      report.frames.reduce((top, f) => Math.max(top, pick(f)), 0)
    const standings = contenders.value[i]!.stations
    const at = (wanted: StationVerdict): string[] =>
      stations.filter(({ id }) => standings[id] === wanted).map(station => station.name)
    return {
      result,
      name: contenders.value[i]!.name,
      alpha: most(f => f.alpha),
      colour: most(f => f.colour),
      edge: most(f => f.edge),
      right: at('right'),
      setting: at('setting'),
      other: at('wrong'),
      broken: report.verdict === 'broken',
      best: ranked.value.filter(r => r.best?.id === result.id).map(r => r.destination.name)
    }
  })
)
const WORDS = {
  identical: 'Identical',
  faithful: 'Faithful',
  'visible-loss': 'Visible loss',
  broken: 'Broken'
} as const
const about = (value: number): string =>
  value === 0 ? '0' : value < 0.01 ? 'under 0.01' : String(Math.round(value * 100) / 100)

const make = computed(() => {
  const data = rows.value
  return (colour: Palette): ChartConfiguration => ({
    type: 'bar',
    data: {
      labels: data.map(r => r.name),
      datasets: [
        {
          label: 'size, MB',
          data: data.map(r => r.result.bytes / 1e6),
          backgroundColor: colour('copper-fill'),
          yAxisID: 'size',
          minBarLength: 2
        },
        {
          label: 'largest colour difference, ΔE',
          data: data.map(r => r.colour),
          backgroundColor: colour('verdigris-fill'),
          yAxisID: 'error',
          minBarLength: 1
        },
        {
          label: 'largest at edges, ΔE',
          data: data.map(r => r.edge),
          backgroundColor: colour('ochre-fill'),
          yAxisID: 'error',
          minBarLength: 1
        }
      ]
    },
    options: {
      plugins: { legend: { position: 'top', align: 'start', labels: { boxWidth: 10, boxHeight: 10 } } },
      scales: {
        x: { grid: { display: false } },
        size: { position: 'left', min: 0, title: { display: true, text: 'MB' } },
        error: {
          position: 'right',
          min: 0,
          suggestedMax: 1,
          grid: { display: false },
          title: { display: true, text: 'ΔE' }
        }
      }
    }
  })
})
</script>

<template>
  <div class="outlets scroll">
    <p v-if="failure" class="bad" role="alert">{{ failure }}</p>
    <PageReader ref="reader" />
    <table>
      <thead>
        <tr>
          <th>Outlet</th>
          <th>Verdict</th>
          <th class="n">Size</th>
          <th class="n">Alpha, codes</th>
          <th class="n">Colour, ΔE</th>
          <th class="n">Edges, ΔE</th>
          <th>Stations</th>
          <th>Best for</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.result.id" :class="{ here: row.result.id === chosen }">
          <th scope="row">
            <button class="link" @click="$emit('open', row.result.id)">{{ row.name }}</button><br /><span
              class="mono soft"
              >{{ formatById(row.result.plan.outlet.format).tag }} · {{ row.result.plan.due.alpha.mode }}</span
            >
          </th>
          <td :class="row.result.report!.verdict">{{ WORDS[row.result.report!.verdict] }}</td>
          <td class="mono n">{{ sayBytes(row.result.bytes) }}</td>
          <td class="mono n">{{ about(row.alpha) }}</td>
          <td class="mono n">{{ about(row.colour) }}</td>
          <td class="mono n">{{ about(row.edge) }}</td>
          <td>
            <template v-if="row.right.length + row.setting.length + row.other.length">
              <span :title="row.right.join(', ')">{{
                row.right.length ? `Right at ${row.right.length}` : 'Right at none as it is'
              }}</span>
              <br />
              <span class="soft" :title="row.setting.join(', ')"
                ><template v-if="row.setting.length">{{ row.setting.length }} after a setting</template></span
              ><span v-if="row.other.length" class="soft" :title="row.other.join(', ')"
                >{{ row.setting.length ? ', ' : '' }}{{ row.broken ? 'wrong at' : 'not made for' }}
                {{ row.other.length }}</span
              >
            </template>
            <span v-else class="soft">being visited …</span>
          </td>
          <td class="best">{{ row.best.join(', ') }}</td>
        </tr>
      </tbody>
    </table>
    <section class="two">
      <ChartBox :make="make" :height="230" label="Size and largest differences of every pour of this source" />
      <dl>
        <template v-for="r in ranked" :key="r.destination.id">
          <dt>{{ r.destination.name }}</dt>
          <dd :data-best="r.destination.id">
            <template v-if="r.best"
              ><strong>{{ r.best.name }}.</strong> {{ r.reason }}</template
            ><span v-else class="soft">{{ r.reason }}</span>
          </dd>
        </template>
      </dl>
    </section>
    <p v-if="rows.length < 2" class="soft">Pour this source through more outlets to compare them here.</p>
  </div>
</template>

<style scoped>
.outlets {
  display: flex;
  flex-direction: column;
  gap: 16px;
  flex: 1;
  min-height: 0;
}

table {
  border-collapse: collapse;
  width: 100%;
  background: var(--raised);
  border: 1px solid var(--line);
}

th,
td {
  text-align: left;
  font-weight: 400;
  padding: 6px 12px;
  border-bottom: 1px solid var(--line);
  vertical-align: top;
}

thead th {
  color: var(--soft);
}

.n {
  text-align: right;
  white-space: nowrap;
}

tr.here {
  background: var(--copper-wash);
}

.identical,
.faithful {
  color: var(--verdigris);
}

.visible-loss {
  color: var(--ochre);
}

.broken,
.bad {
  color: var(--brick);
}

.best {
  font-weight: 500;
}

.two {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 18px;
}

dl {
  display: flex;
  flex-direction: column;
  gap: 2px;
}

dt {
  color: var(--soft);
}

dd {
  margin-bottom: 8px;
}
</style>
