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
const hex = (event: Event): HexColour => words(event) as HexColour
const plain = (paint: Paint | null | undefined): string =>
  typeof paint === 'string' ? paint : (paint?.from ?? '#000000')
const second = (paint: Paint | null | undefined): string => (typeof paint === 'object' && paint ? paint.to : '#000000')

/** The paint with its first colour, second colour or kind changed. */
function painted(paint: Paint | null, change: { from?: HexColour; to?: HexColour; gradient?: boolean }): Paint {
  const from = change.from ?? (plain(paint) as HexColour)
  const was = typeof paint === 'object' && paint ? paint : null
  const gradient = change.gradient ?? (was !== null || change.to !== undefined)
  return gradient ? { from, to: change.to ?? was?.to ?? '#000000', angle: was?.angle ?? 0 } : from
}

const PLACES = [
  { key: 'x', label: 'Across', step: 1 },
  { key: 'y', label: 'Down', step: 1 },
  { key: 'scale', label: 'Scale', step: 0.05 },
  { key: 'rotation', label: 'Turned, °', step: 1 },
  { key: 'opacity', label: 'Opacity', step: 0.05 }
] as const
const PINS = ['middle', 'top left', 'top right', 'bottom left', 'bottom right'] as const
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
    <label
      >Called<input
        :value="element.name"
        maxlength="80"
        @change="e => edit('Rename', now => void (now.name = words(e)))"
    /></label>
    <template v-if="text">
      <label class="wide"
        >Text<textarea
          rows="2"
          :value="text.text"
          maxlength="2000"
          @change="e => editLook('text', look => void (look.text = words(e)))"
        />
      </label>
      <label
        >Column<input
          :value="text.field ?? ''"
          maxlength="60"
          placeholder="of a table"
          title="The column of a table that fills this text"
          @change="e => editLook('text', look => void (look.field = words(e).trim() || null))"
      /></label>
      <label
        >Face<select :value="text.face" @change="e => editLook('text', look => void (look.face = words(e)))">
          <option v-for="face in FACES" :key="face.id" :value="face.id">{{ face.label }}</option>
        </select></label
      >
      <label
        >Size<input
          type="number"
          min="1"
          max="2000"
          :value="text.size"
          @change="e => editLook('text', look => void (look.size = number(e)))"
      /></label>
      <label
        >Colour<input
          type="color"
          :value="plain(text.colour)"
          @change="e => editLook('text', look => void (look.colour = painted(look.colour, { from: hex(e) })))"
      /></label>
      <label
        >Set<select :value="text.align" @change="e => editLook('text', look => void (look.align = words(e) as 'left'))">
          <option v-for="align in ['left', 'centre', 'right']" :key="align">{{ align }}</option>
        </select></label
      >
      <label
        >Tracking<input
          type="number"
          min="-200"
          max="2000"
          step="10"
          :value="text.tracking"
          @change="e => editLook('text', look => void (look.tracking = number(e)))"
      /></label>
      <label
        >Leading<input
          type="number"
          min="0.5"
          max="4"
          step="0.05"
          :value="text.leading"
          @change="e => editLook('text', look => void (look.leading = number(e)))"
      /></label>
    </template>
    <template v-if="shape">
      <label
        >Form<select
          :value="shape.form"
          @change="e => editLook('shape', look => void (look.form = words(e) as 'star'))"
        >
          <option v-for="form in ['rectangle', 'ellipse', 'polygon', 'star']" :key="form">{{ form }}</option>
        </select></label
      >
      <label
        >Width<input
          type="number"
          min="0"
          :value="shape.width"
          @change="e => editLook('shape', look => void (look.width = number(e)))"
      /></label>
      <label
        >Height<input
          type="number"
          min="0"
          :value="shape.height"
          @change="e => editLook('shape', look => void (look.height = number(e)))"
      /></label>
      <label v-if="shape.form === 'rectangle'"
        >Corners<input
          type="number"
          min="0"
          :value="shape.corner"
          @change="e => editLook('shape', look => void (look.corner = number(e)))"
      /></label>
      <label v-if="shape.form === 'polygon' || shape.form === 'star'"
        >Points<input
          type="number"
          min="3"
          max="60"
          :value="shape.points"
          @change="e => editLook('shape', look => void (look.points = Math.round(number(e))))"
      /></label>
      <label v-if="shape.form === 'star'"
        >Inner<input
          type="number"
          min="0"
          max="1"
          step="0.05"
          :value="shape.inner"
          @change="e => editLook('shape', look => void (look.inner = number(e)))"
      /></label>
      <label class="tick"
        ><input
          type="checkbox"
          :checked="shape.fill !== null"
          @change="editLook('shape', look => void (look.fill = look.fill === null ? '#175c4e' : null))"
        />Filled</label
      >
      <template v-if="shape.fill !== null">
        <label
          >Fill<input
            type="color"
            :value="plain(shape.fill)"
            @change="e => editLook('shape', look => void (look.fill = painted(look.fill, { from: hex(e) })))"
        /></label>
        <label class="tick"
          ><input
            type="checkbox"
            :checked="typeof shape.fill !== 'string'"
            @change="
              editLook(
                'shape',
                look => void (look.fill = painted(look.fill, { gradient: typeof look.fill === 'string' }))
              )
            "
          />To another</label
        >
        <label v-if="typeof shape.fill !== 'string'"
          >Other<input
            type="color"
            :value="second(shape.fill)"
            @change="e => editLook('shape', look => void (look.fill = painted(look.fill, { to: hex(e) })))"
        /></label>
        <label
          >Solid<input
            type="number"
            min="0"
            max="1"
            step="0.05"
            :value="shape.fillOpacity"
            title="How solid the fill is: 0.6 lets 40 % of what lies behind through"
            @change="e => editLook('shape', look => void (look.fillOpacity = number(e)))"
        /></label>
      </template>
      <label class="tick"
        ><input
          type="checkbox"
          :checked="shape.stroke !== null"
          @change="editLook('shape', look => void (look.stroke = look.stroke ? null : { colour: '#e2b242', width: 6 }))"
        />Outlined</label
      >
      <template v-if="shape.stroke">
        <label
          >Outline<input
            type="color"
            :value="shape.stroke.colour"
            @change="e => editLook('shape', look => void (look.stroke!.colour = hex(e)))"
        /></label>
        <label
          >Width<input
            type="number"
            min="0.1"
            step="0.5"
            :value="shape.stroke.width"
            @change="e => editLook('shape', look => void (look.stroke!.width = number(e)))"
        /></label>
      </template>
    </template>
    <template v-if="picture">
      <label
        >Width<input
          type="number"
          min="1"
          :value="Math.round(picture.width)"
          @change="
            e =>
              editLook('picture', look => {
                // its shape stays
                look.height = (look.height / look.width) * Math.max(1, number(e))
                look.width = Math.max(1, number(e))
              })
          "
      /></label>
    </template>
    <template v-if="path">
      <label v-if="path.stroke"
        >Colour<input
          type="color"
          :value="path.stroke.colour"
          @change="e => editLook('path', look => void (look.stroke!.colour = hex(e)))"
      /></label>
      <label v-if="path.stroke"
        >Width<input
          type="number"
          min="0.1"
          step="0.5"
          :value="path.stroke.width"
          @change="e => editLook('path', look => void (look.stroke!.width = number(e)))"
      /></label>
      <label
        >Rider<select
          :value="path.rider"
          @change="e => editLook('path', look => void (look.rider = words(e) as 'dot'))"
        >
          <option v-for="rider in ['none', 'arrow', 'dot']" :key="rider">{{ rider }}</option>
        </select></label
      >
      <label v-if="path.rider !== 'none'"
        >Its size<input
          type="number"
          min="0"
          :value="path.riderSize"
          @change="e => editLook('path', look => void (look.riderSize = number(e)))"
      /></label>
      <label class="tick"
        ><input
          type="checkbox"
          :checked="path.closed"
          @change="editLook('path', look => void (look.closed = !look.closed))"
        />Closed</label
      >
      <div class="wide points">
        <span v-for="(point, n) in path.points" :key="n" class="mono">
          <input
            type="number"
            :aria-label="`Point ${n + 1} across`"
            :value="Math.round(point.x)"
            @change="e => editLook('path', look => void (look.points[n]!.x = number(e)))"
          />
          <input
            type="number"
            :aria-label="`Point ${n + 1} down`"
            :value="Math.round(point.y)"
            @change="e => editLook('path', look => void (look.points[n]!.y = number(e)))"
          />
        </span>
      </div>
    </template>
    <label v-for="place in PLACES" :key="place.key"
      >{{ place.label
      }}<input
        type="number"
        :step="place.step"
        :value="Math.round(element[place.key] * 100) / 100"
        @change="e => edit('Move', now => void (now[place.key] = number(e)))"
    /></label>
    <label
      >Kept at<select
        :value="element.pin"
        title="The corner whose distance it keeps in another size"
        @change="e => edit('Pin', now => void (now.pin = words(e) as 'middle'))"
      >
        <option v-for="pin in PINS" :key="pin">{{ pin }}</option>
      </select></label
    >
    <label class="tick"
      ><input
        type="checkbox"
        :checked="element.shadow !== null"
        @change="
          edit(
            'Shadow',
            now => void (now.shadow = now.shadow ? null : { x: 0, y: 8, soft: 20, colour: '#000000', opacity: 0.5 })
          )
        "
      />Shadow</label
    >
    <template v-if="element.shadow">
      <label
        >Shadow<input
          type="color"
          :value="element.shadow.colour"
          @change="e => edit('Shadow', now => void (now.shadow!.colour = hex(e)))"
      /></label>
      <label
        >Soft<input
          type="number"
          min="0"
          max="500"
          :value="element.shadow.soft"
          @change="e => edit('Shadow', now => void (now.shadow!.soft = number(e)))"
      /></label>
      <label
        >Solid<input
          type="number"
          min="0"
          max="1"
          step="0.05"
          :value="element.shadow.opacity"
          @change="e => edit('Shadow', now => void (now.shadow!.opacity = number(e)))"
      /></label>
      <label
        >Across<input
          type="number"
          :value="element.shadow.x"
          @change="e => edit('Shadow', now => void (now.shadow!.x = number(e)))"
      /></label>
      <label
        >Down<input
          type="number"
          :value="element.shadow.y"
          @change="e => edit('Shadow', now => void (now.shadow!.y = number(e)))"
      /></label>
    </template>
    <label class="tick"
      ><input
        type="checkbox"
        :checked="element.glow !== null"
        @change="edit('Glow', now => void (now.glow = now.glow ? null : { soft: 30, colour: '#e2b242', opacity: 0.8 }))"
      />Glow</label
    >
    <template v-if="element.glow">
      <label
        >Glow<input
          type="color"
          :value="element.glow.colour"
          @change="e => edit('Glow', now => void (now.glow!.colour = hex(e)))"
      /></label>
      <label
        >Soft<input
          type="number"
          min="0"
          max="500"
          :value="element.glow.soft"
          @change="e => edit('Glow', now => void (now.glow!.soft = number(e)))"
      /></label>
      <label
        >Solid<input
          type="number"
          min="0"
          max="1"
          step="0.05"
          :value="element.glow.opacity"
          @change="e => edit('Glow', now => void (now.glow!.opacity = number(e)))"
      /></label>
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

label {
  display: flex;
  flex-direction: column;
  gap: 2px;
  font-size: 12px;
  color: var(--soft);
}

label.tick {
  flex-direction: row;
  align-items: center;
  align-self: end;
  gap: 5px;
  min-height: 25px;
  color: var(--ink);
}

.wide {
  grid-column: 1 / -1;
}

input:not([type='checkbox'], [type='color']),
select,
textarea {
  font: inherit;
  color: var(--ink);
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 3px 5px;
  width: 100%;
}

input[type='color'] {
  width: 100%;
  height: 25px;
  padding: 0;
  border: 1px solid var(--line);
  background: none;
}

.tracks,
.track,
.points {
  display: flex;
  flex-direction: column;
  gap: 4px;
  font-size: 12px;
}

.points {
  flex-flow: row wrap;
}

.points span {
  display: flex;
  gap: 2px;
}

.points input {
  width: 58px;
}

.key {
  display: grid;
  grid-template-columns: 58px auto 72px 1fr auto;
  gap: 5px;
  align-items: center;
}

.tracks > span select {
  width: auto;
}
</style>
