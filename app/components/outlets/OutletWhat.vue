<script setup lang="ts">
/** What an outlet delivers: its format, depth and parts, how alpha stands to colour, and the format's own settings. */
import FieldForm, { type FormField } from '~/components/form/FieldForm.vue'
import TextLine from '~/components/shell/TextLine.vue'
import { computed } from 'vue'
import { counts } from '~~/core/base/settings/field'
import type { AlphaMode } from '~~/core/frame/frame'
import {
  alphaBitsOf,
  colourBitsOf,
  sayCarries,
  sayKept,
  withFormat,
  withParts,
  type Outlet
} from '~~/core/job/outlet/outlet'
import { carriageById, carriages } from '~~/core/media/carriage/carriages'
import { holdsAlpha } from '~~/core/media/formats/traits/carrying'
import { formatById, writtenFormats } from '~~/core/open/registry'
import type { FormatId } from '~~/core/open/rows'

const { outlet } = defineProps<{ outlet: Outlet }>()
const emit = defineEmits<{ change: [outlet: Outlet] }>()
const format = computed(() => formatById(outlet.format))
const carriage = computed(() => carriageById(outlet.parts))

function set(changes: Partial<Outlet>): void {
  emit('change', { ...outlet, ...changes })
}

/** What the format has to be set. */
const options = computed<FormField[]>(() =>
  Object.entries(format.value.options).flatMap(([key, field]) =>
    counts(field, outlet.options) ? [{ key, field, value: outlet.options[key] ?? field.default }] : []
  )
)
const MODES = [
  { mode: 'straight', name: 'Straight' },
  { mode: 'premultiplied', name: 'Premultiplied' },
  { mode: 'none', name: 'No alpha' }
] as const
/** A fill may be multiplied or not in any format: its file has no alpha to contradict. */
const offered = computed(() =>
  MODES.filter(m => (carriage.value.apart ? m.mode !== 'none' : format.value.alpha[m.mode].can))
)

/** Bits of colour, and of alpha where its files have some. */
function sayDepth(depth: Outlet['depth']): string {
  const one = { ...outlet, depth }
  const colour = `${colourBitsOf(format.value, one)} bit`
  return holdsAlpha(format.value) ? `${colour} + ${alphaBitsOf(format.value, one)} alpha` : colour
}

/** What may be carried: colour and alpha together only where there is room for both, or where that was asked for. */
const ways = computed(() =>
  carriages.filter(
    ({ channel, apart, half, id }) =>
      id === outlet.parts ||
      (channel
        ? holdsAlpha(format.value)
        : !apart || (half ? format.value.delivers === 'film' : format.value.delivers !== 'folder'))
  )
)

/** Why colour and alpha are not offered together, where they are not. */
const apart = computed(() => {
  const { straight } = format.value.alpha
  return straight.can || holdsAlpha(format.value) ? '' : ` ${straight.because}`
})

/** The one matte colour that the format's word for premultiplied means; a fill's file says nothing of it. */
const onlyMatte = computed(() => {
  const { premultiplied } = format.value.alpha
  return outlet.parts === 'colour-alpha' && premultiplied.can ? (premultiplied.matte ?? null) : null
})

const refused = computed(() =>
  MODES.flatMap(m => {
    const capability = format.value.alpha[m.mode]
    return capability.can ? [] : [{ name: m.name, because: capability.because }]
  })
)
const declares = computed(() => {
  const capability = format.value.alpha[outlet.alpha.mode]
  return capability.can ? capability.declares : ''
})
const matteUndeclared = computed(
  () => outlet.alpha.mode === 'premultiplied' && !format.value.declaredMattes.includes(outlet.alpha.matte)
)

function setMode(mode: string): void {
  set({ alpha: mode === 'premultiplied' ? { mode, matte: '#000000' } : ({ mode } as AlphaMode) })
}
</script>

<template>
  <section>
    <h2>What is delivered</h2>
    <label class="line-field"
      ><span>Name</span
      ><TextLine
        :value="outlet.name"
        maxlength="80"
        :fits="text => text.trim() !== ''"
        @set="name => set({ name: name.trim() })"
    /></label>
    <label class="line-field">
      <span>Format</span>
      <el-select
        :model-value="outlet.format"
        aria-label="Format"
        @update:model-value="(next: FormatId) => emit('change', withFormat(outlet, formatById(next)))"
      >
        <el-option v-for="f in writtenFormats" :key="f.id" :value="f.id" :label="f.name" />
      </el-select>
      <small>Carries {{ sayCarries(outlet) }}. {{ sayKept(format, outlet) }}</small>
    </label>
    <div class="line-field">
      <span>Depth</span>
      <el-radio-group
        :model-value="outlet.depth"
        aria-label="Depth"
        @update:model-value="depth => set({ depth: depth as Outlet['depth'] })"
      >
        <el-radio-button v-for="d in format.depths" :key="d.depth" :value="d.depth">{{
          sayDepth(d.depth)
        }}</el-radio-button>
      </el-radio-group>
    </div>
    <div class="line-field">
      <span>Carries</span>
      <el-radio-group
        :model-value="outlet.parts"
        aria-label="Carries"
        @update:model-value="parts => emit('change', withParts(outlet, String(parts) as Outlet['parts']))"
      >
        <el-radio-button v-for="way in ways" :key="way.id" :value="way.id">{{
          way.name
        }}</el-radio-button>
      </el-radio-group>
      <small>{{ carriageById(outlet.parts).help }}{{ apart }}</small>
    </div>
    <div v-if="outlet.parts === 'colour-only'" class="line-field">
      <span>Laid on</span>
      <div class="inline">
        <el-button
          size="small"
          :type="outlet.backing === '#000000' ? 'primary' : 'default'"
          @click="set({ backing: '#000000' })"
          >black</el-button
        >
        <el-button
          size="small"
          :type="outlet.backing === '#ffffff' ? 'primary' : 'default'"
          @click="set({ backing: '#ffffff' })"
          >white</el-button
        >
        <input
          type="color"
          :value="outlet.backing"
          aria-label="Backing colour"
          @change="set({ backing: ($event.target as HTMLInputElement).value })"
        />
        <span class="mono">{{ outlet.backing }}</span>
      </div>
    </div>
    <div v-if="carriage.channel || carriage.apart" class="line-field">
      <span>{{ outlet.parts === 'fill-key' ? 'Fill' : 'Alpha' }}</span>
      <div class="inline">
        <el-radio-group
          :model-value="outlet.alpha.mode"
          aria-label="Alpha mode"
          @update:model-value="mode => setMode(String(mode))"
        >
          <el-radio-button v-for="m in offered" :key="m.mode" :value="m.mode">{{ m.name }}</el-radio-button>
        </el-radio-group>
        <template v-if="outlet.alpha.mode === 'premultiplied'">
          <span class="soft">on</span>
          <el-button
            size="small"
            :type="outlet.alpha.matte === '#000000' ? 'primary' : 'default'"
            @click="set({ alpha: { mode: 'premultiplied', matte: '#000000' } })"
            >black</el-button
          >
          <el-button
            v-if="!onlyMatte"
            size="small"
            :type="outlet.alpha.matte === '#ffffff' ? 'primary' : 'default'"
            @click="set({ alpha: { mode: 'premultiplied', matte: '#ffffff' } })"
            >white</el-button
          >
          <input
            v-if="!onlyMatte"
            type="color"
            :value="outlet.alpha.matte"
            aria-label="Matte colour"
            @change="set({ alpha: { mode: 'premultiplied', matte: ($event.target as HTMLInputElement).value } })"
          />
          <span class="mono">{{ outlet.alpha.matte }}</span>
        </template>
      </div>
      <small v-if="outlet.parts === 'fill-key'"
        >{{
          outlet.alpha.mode === 'straight'
            ? 'The fill keeps its full colour under soft edges; the receiver multiplies it by the key.'
            : 'The fill is multiplied by its key already; the receiver only adds it.'
        }}
        Nothing in the files says which: tell the receiver.</small
      >
      <small v-else-if="carriage.apart"
        >{{
          outlet.alpha.mode === 'straight'
            ? 'Colour is kept in full and goes on under clear pixels; the player multiplies it by alpha.'
            : 'Colour is multiplied by alpha already; the player only adds it.'
        }}
        Nothing in the film says which: tell the receiver.</small
      >
      <small v-else>In the file: {{ declares }}.</small>
      <small v-if="matteUndeclared && outlet.parts === 'colour-alpha'" class="ochre"
        >This format can declare only {{ format.declaredMattes.join(' and ') }}. The receiver must be told of
        {{ outlet.alpha.mode === 'premultiplied' ? outlet.alpha.matte : '' }}.</small
      >
      <small v-for="r in outlet.parts === 'colour-alpha' ? refused : []" :key="r.name"
        >Not offered: {{ r.name.toLowerCase() }}. {{ r.because.charAt(0).toUpperCase() + r.because.slice(1) }}</small
      >
    </div>
    <FieldForm
      layout="lines"
      :fields="options"
      @set="(key, value) => set({ options: { ...outlet.options, [key]: value as string } })"
    />
  </section>
</template>
