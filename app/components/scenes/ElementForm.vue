<script setup lang="ts">
/** Style and movement of an element: what it looks like, where it lies, what lies under it, and values over time. */
import { computed, ref } from 'vue'
import { FACES } from '~~/core/scene/faces'
import { EASES, KEYED, type Element, type Keyed, type Look, type Paint } from '~~/core/scene/scene'
import type { HexColour } from '~~/core/colour'

const { element, seconds } = defineProps<{ element: Element; seconds: number }>()
const emit = defineEmits<{ edit: [label: string, change: (element: Element) => void] }>()

const edit = (label: string, change: (element: Element) => void): void => emit('edit', label, change)
const editLook = <K extends Look['kind']>(kind: K, change: (look: Extract<Look, { kind: K }>) => void): void =>
  edit('Change the style', now => {
    if (now.look.kind === kind) change(now.look as Extract<Look, { kind: K }>)
  })
const text = computed(() => (element.look.kind === 'text' ? element.look : null))
const shape = computed(() => (element.look.kind === 'shape' ? element.look : null))
const picture = computed(() => (element.look.kind === 'picture' ? element.look : null))
const path = computed(() => (element.look.kind === 'path' ? element.look : null))

const number = (event: Event): number => Number((event.target as HTMLInputElement).value) || 0
const words = (event: Event): string => (event.target as HTMLInputElement).value
const plain = (paint: Paint | null | undefined): string =>
  typeof paint === 'string' ? paint : (paint?.from ?? '#000000')
const second = (paint: Paint | null | undefined): string => (typeof paint === 'object' && paint ? paint.to : '#000000')

const hex = (text: string): HexColour => text as HexColour

/** The paint with its first colour, second colour or kind changed. */
function painted(paint: Paint | null, change: { from?: HexColour; to?: HexColour; gradient?: boolean }): Paint {
  const from = change.from ?? (plain(paint) as HexColour)
  const was = typeof paint === 'object' && paint ? paint : null
  const gradient = change.gradient ?? (was !== null || change.to !== undefined)
  return gradient ? { from, to: change.to ?? was?.to ?? '#000000', angle: was?.angle ?? 0 } : from
}

const PLACES = [
  { key: 'x', label: 'Across', step: 'any', least: -32768, most: 32768 },
  { key: 'y', label: 'Down', step: 'any', least: -32768, most: 32768 },
  { key: 'scale', label: 'Scale', step: 'any', least: 0, most: 100 },
  { key: 'rotation', label: 'Turned, °', step: 'any', least: -36000, most: 36000 },
  { key: 'opacity', label: 'Opacity', step: 0.05, least: 0, most: 1 }
] as const
const PINS = ['middle', 'top left', 'top right', 'bottom left', 'bottom right'] as const
const FACE_CHOICES = FACES.map(({ id, label }) => ({ value: id, label }))
const KEYED_WORDS: Record<Keyed, string> = {
  x: 'Across',
  y: 'Down',
  scale: 'Scale',
  rotation: 'Turned',
  opacity: 'Opacity',
  trace: 'Drawn share'
}

const adding = ref<Keyed>('x')
function addTrack(): void {
  const of = adding.value
  edit('Add values over time', now => {
    if (now.tracks.some(track => track.of === of)) return
    const value = of === 'trace' ? 1 : now[of]
    now.tracks.push({
      of,
      keys: [
        { at: 0, value, ease: 'soft' },
        { at: Math.round(seconds * 100) / 100, value, ease: 'soft' }
      ]
    })
  })
}
const free = computed(() => KEYED.filter(of => !element.tracks.some(track => track.of === of)))
</script>

<template>
  <fieldset class="form" :disabled="element.locked">
    <FormPart
      label="Called"
      kind="words"
      :value="element.name"
      @words="v => edit('Rename', now => void (now.name = v))"
    />
    <template v-if="text">
      <FormPart
        label="Text"
        kind="lines"
        :value="text.text"
        @words="v => editLook('text', look => void (look.text = v))"
      />
      <FormPart
        label="Column"
        kind="words"
        hint="of a table"
        :value="text.field ?? ''"
        @words="v => editLook('text', look => void (look.field = v.trim().slice(0, 60) || null))"
      />
      <FormPart
        label="Face"
        kind="choice"
        :choices="FACE_CHOICES"
        :value="text.face"
        @words="v => editLook('text', look => void (look.face = v))"
      />
      <FormPart
        label="Size"
        :least="1"
        :most="2000"
        :value="text.size"
        @number="v => editLook('text', look => void (look.size = v))"
      />
      <FormPart
        label="Colour"
        kind="colour"
        :value="plain(text.colour)"
        @words="v => editLook('text', look => void (look.colour = painted(look.colour, { from: hex(v) })))"
      />
      <FormPart
        label="Set"
        kind="choice"
        :choices="['left', 'centre', 'right']"
        :value="text.align"
        @words="v => editLook('text', look => void (look.align = v as 'left'))"
      />
      <FormPart
        label="Tracking"
        :least="-200"
        :most="2000"
        :step="10"
        :value="text.tracking"
        @number="v => editLook('text', look => void (look.tracking = v))"
      />
      <FormPart
        label="Leading"
        :least="0.5"
        :most="4"
        :step="0.05"
        :value="text.leading"
        @number="v => editLook('text', look => void (look.leading = v))"
      />
    </template>
    <template v-if="shape">
      <FormPart
        label="Form"
        kind="choice"
        :choices="['rectangle', 'ellipse', 'polygon', 'star']"
        :value="shape.form"
        @words="v => editLook('shape', look => void (look.form = v as 'star'))"
      />
      <FormPart
        label="Width"
        :least="0"
        :most="32768"
        step="any"
        :value="shape.width"
        @number="v => editLook('shape', look => void (look.width = v))"
      />
      <FormPart
        label="Height"
        :least="0"
        :most="32768"
        step="any"
        :value="shape.height"
        @number="v => editLook('shape', look => void (look.height = v))"
      />
      <FormPart
        v-if="shape.form === 'rectangle'"
        label="Corners"
        :least="0"
        :most="32768"
        step="any"
        :value="shape.corner"
        @number="v => editLook('shape', look => void (look.corner = v))"
      />
      <FormPart
        v-if="shape.form === 'polygon' || shape.form === 'star'"
        label="Points"
        :least="3"
        :most="60"
        :value="shape.points"
        @number="v => editLook('shape', look => void (look.points = Math.round(v)))"
      />
      <FormPart
        v-if="shape.form === 'star'"
        label="Inner"
        :least="0"
        :most="1"
        :step="0.05"
        :value="shape.inner"
        @number="v => editLook('shape', look => void (look.inner = v))"
      />
      <FormPart
        label="Filled"
        kind="tick"
        :value="shape.fill !== null"
        @tick="v => editLook('shape', look => void (look.fill = v ? '#175c4e' : null))"
      />
      <template v-if="shape.fill !== null">
        <FormPart
          label="Fill"
          kind="colour"
          :value="plain(shape.fill)"
          @words="v => editLook('shape', look => void (look.fill = painted(look.fill, { from: hex(v) })))"
        />
        <FormPart
          label="To another"
          kind="tick"
          :value="typeof shape.fill !== 'string'"
          @tick="v => editLook('shape', look => void (look.fill = painted(look.fill, { gradient: v })))"
        />
        <FormPart
          v-if="typeof shape.fill !== 'string'"
          label="Other"
          kind="colour"
          :value="second(shape.fill)"
          @words="v => editLook('shape', look => void (look.fill = painted(look.fill, { to: hex(v) })))"
        />
        <FormPart
          label="Solid"
          hint="How solid the fill is: 0.6 lets 40 % of what lies behind through"
          :least="0"
          :most="1"
          :step="0.05"
          :value="shape.fillOpacity"
          @number="v => editLook('shape', look => void (look.fillOpacity = v))"
        />
      </template>
      <FormPart
        label="Outlined"
        kind="tick"
        :value="shape.stroke !== null"
        @tick="v => editLook('shape', look => void (look.stroke = v ? { colour: '#e2b242', width: 6 } : null))"
      />
      <template v-if="shape.stroke">
        <FormPart
          label="Outline"
          kind="colour"
          :value="shape.stroke.colour"
          @words="v => editLook('shape', look => void (look.stroke!.colour = hex(v)))"
        />
        <FormPart
          label="Line width"
          :least="0.1"
          :most="1000"
          :step="0.5"
          :value="shape.stroke.width"
          @number="v => editLook('shape', look => void (look.stroke!.width = v))"
        />
      </template>
    </template>
    <!-- its shape stays -->
    <FormPart
      v-if="picture"
      label="Width"
      :least="1"
      :most="32768"
      step="any"
      :value="Math.round(picture.width)"
      @number="v => editLook('picture', look => void ((look.height *= v / look.width), (look.width = v)))"
    />
    <template v-if="path">
      <template v-if="path.stroke">
        <FormPart
          label="Colour"
          kind="colour"
          :value="path.stroke.colour"
          @words="v => editLook('path', look => void (look.stroke!.colour = hex(v)))"
        />
        <FormPart
          label="Line width"
          :least="0.1"
          :most="1000"
          :step="0.5"
          :value="path.stroke.width"
          @number="v => editLook('path', look => void (look.stroke!.width = v))"
        />
      </template>
      <FormPart
        label="Rider"
        kind="choice"
        :choices="['none', 'arrow', 'dot']"
        :value="path.rider"
        @words="v => editLook('path', look => void (look.rider = v as 'dot'))"
      />
      <FormPart
        v-if="path.rider !== 'none'"
        label="Its size"
        :least="0"
        :most="2000"
        step="any"
        :value="path.riderSize"
        @number="v => editLook('path', look => void (look.riderSize = v))"
      />
      <FormPart
        label="Closed"
        kind="tick"
        :value="path.closed"
        @tick="v => editLook('path', look => void (look.closed = v))"
      />
      <template v-for="(point, n) in path.points" :key="n">
        <FormPart
          :label="`Point ${n + 1} across`"
          step="any"
          :value="Math.round(point.x)"
          @number="v => editLook('path', look => void (look.points[n]!.x = v))"
        />
        <FormPart
          :label="`Point ${n + 1} down`"
          step="any"
          :value="Math.round(point.y)"
          @number="v => editLook('path', look => void (look.points[n]!.y = v))"
        />
      </template>
    </template>
    <FormPart
      v-for="place in PLACES"
      :key="place.key"
      :label="place.label"
      :least="place.least"
      :most="place.most"
      :step="place.step"
      :value="Math.round(element[place.key] * 100) / 100"
      @number="v => edit('Move', now => void (now[place.key] = v))"
    />
    <FormPart
      label="Kept at"
      kind="choice"
      hint="The corner whose distance it keeps in another size"
      :choices="PINS"
      :value="element.pin"
      @words="v => edit('Pin', now => void (now.pin = v as 'middle'))"
    />
    <FormPart
      label="Shadow"
      kind="tick"
      :value="element.shadow !== null"
      @tick="
        v =>
          edit(
            'Shadow',
            now => void (now.shadow = v ? { x: 0, y: 8, soft: 20, colour: '#000000', opacity: 0.5 } : null)
          )
      "
    />
    <template v-if="element.shadow">
      <FormPart
        label="Its colour"
        kind="colour"
        :value="element.shadow.colour"
        @words="v => edit('Shadow', now => void (now.shadow!.colour = hex(v)))"
      />
      <FormPart
        label="Soft"
        :least="0"
        :most="500"
        :value="element.shadow.soft"
        @number="v => edit('Shadow', now => void (now.shadow!.soft = v))"
      />
      <FormPart
        label="Solid"
        :least="0"
        :most="1"
        :step="0.05"
        :value="element.shadow.opacity"
        @number="v => edit('Shadow', now => void (now.shadow!.opacity = v))"
      />
      <FormPart
        label="Cast across"
        :value="element.shadow.x"
        @number="v => edit('Shadow', now => void (now.shadow!.x = v))"
      />
      <FormPart
        label="Cast down"
        :value="element.shadow.y"
        @number="v => edit('Shadow', now => void (now.shadow!.y = v))"
      />
    </template>
    <FormPart
      label="Glow"
      kind="tick"
      :value="element.glow !== null"
      @tick="v => edit('Glow', now => void (now.glow = v ? { soft: 30, colour: '#e2b242', opacity: 0.8 } : null))"
    />
    <template v-if="element.glow">
      <FormPart
        label="Its colour"
        kind="colour"
        :value="element.glow.colour"
        @words="v => edit('Glow', now => void (now.glow!.colour = hex(v)))"
      />
      <FormPart
        label="Soft"
        :least="0"
        :most="500"
        :value="element.glow.soft"
        @number="v => edit('Glow', now => void (now.glow!.soft = v))"
      />
      <FormPart
        label="Solid"
        :least="0"
        :most="1"
        :step="0.05"
        :value="element.glow.opacity"
        @number="v => edit('Glow', now => void (now.glow!.opacity = v))"
      />
    </template>
    <div class="wide tracks">
      <div v-for="(track, t) in element.tracks" :key="track.of" class="track">
        <strong>{{ KEYED_WORDS[track.of] }}</strong>
        <span v-for="(key, k) in track.keys" :key="k" class="key">
          <input
            type="number"
            step="0.05"
            min="0"
            :aria-label="`${KEYED_WORDS[track.of]}, time ${k + 1}`"
            :value="key.at"
            @change="e => edit('Change a value', now => void (now.tracks[t]!.keys[k]!.at = Math.max(0, number(e))))"
          />
          s
          <input
            type="number"
            step="any"
            :aria-label="`${KEYED_WORDS[track.of]}, value ${k + 1}`"
            :value="key.value"
            @change="e => edit('Change a value', now => void (now.tracks[t]!.keys[k]!.value = number(e)))"
          />
          <select
            :aria-label="`${KEYED_WORDS[track.of]}, course ${k + 1}`"
            :value="typeof key.ease === 'string' ? key.ease : 'soft'"
            @change="e => edit('Change a value', now => void (now.tracks[t]!.keys[k]!.ease = words(e) as 'soft'))"
          >
            <option v-for="ease in EASES" :key="ease">{{ ease }}</option>
          </select>
          <button
            v-if="track.keys.length > 1"
            type="button"
            class="link"
            :aria-label="`Remove value ${k + 1}`"
            @click="edit('Remove a value', now => void now.tracks[t]!.keys.splice(k, 1))"
          >
            ×
          </button>
        </span>
        <span>
          <button
            type="button"
            class="link"
            @click="
              edit(
                'Add a value',
                now =>
                  void now.tracks[t]!.keys.push({
                    ...now.tracks[t]!.keys.at(-1)!,
                    at: Math.round((now.tracks[t]!.keys.at(-1)!.at + 0.5) * 100) / 100
                  })
              )
            "
          >
            Add a value
          </button>
          ·
          <button
            type="button"
            class="link"
            @click="edit('Remove values over time', now => void now.tracks.splice(t, 1))"
          >
            Remove all
          </button>
        </span>
      </div>
      <span v-if="free.length">
        Values over time:
        <select v-model="adding" aria-label="Value that changes over time">
          <option v-for="of in free" :key="of" :value="of">{{ KEYED_WORDS[of] }}</option>
        </select>
        <button type="button" class="link" @click="addTrack">Add</button>
      </span>
    </div>
  </fieldset>
</template>

<style scoped>
.form {
  border: 0;
  border-top: 1px solid var(--line);
  padding: 8px 0 0;
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 6px 10px;
}

.wide {
  grid-column: 1 / -1;
}

.tracks,
.track {
  display: flex;
  flex-direction: column;
  gap: 4px;
  font-size: 12px;
}

.tracks input,
.tracks select {
  font: inherit;
  color: var(--ink);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 3px 5px;
}

.key {
  display: grid;
  grid-template-columns: 58px auto 72px 1fr auto;
  gap: 5px;
  align-items: center;
}
</style>
