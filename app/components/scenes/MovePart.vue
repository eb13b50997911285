<script setup lang="ts">
/** The part of a sentence that says how an element comes, or how it goes. */
import CourseCurve from '~/components/scenes/CourseCurve.vue'
import InlinePart from '~/components/scenes/InlinePart.vue'
import { computed } from 'vue'
import { COMES, GOES, movesOf, secondsIn } from './words'
import type { Element } from '~~/core/draw/scene/scene'
import { SIDES, type Move } from '~~/core/draw/scene/values'

const { element, which } = defineProps<{ element: Element; which: 'entrance' | 'exit' }>()
const emit = defineEmits<{ change: [change: (move: Move) => void] }>()

const move = computed(() => element[which])
const comes = computed(() => which === 'entrance')
const kinds = computed(() =>
  movesOf(element.look).map(kind => ({ value: kind, label: (comes.value ? COMES : GOES)[kind] }))
)
const sides = computed(() => SIDES.map(side => ({ value: side, label: `${comes.value ? 'from' : 'to'} the ${side}` })))
const set = (change: (move: Move) => void): void => emit('change', change)
</script>

<template>
  <InlinePart
    :label="comes ? 'How it comes' : 'How it goes'"
    :value="move.kind"
    :choices="kinds"
    @set="kind => set(now => void (now.kind = kind as Move['kind']))"
  />
  <template v-if="move.kind !== 'none'">
    <InlinePart
      v-if="move.kind === 'slide' || move.kind === 'wipe'"
      :label="comes ? 'Side it comes from' : 'Side it goes to'"
      :value="move.side"
      :choices="sides"
      @set="side => set(now => void (now.side = side as Move['side']))"
    />
    over
    <InlinePart
      :label="comes ? 'Seconds to come' : 'Seconds to go'"
      unit=" s"
      :value="move.seconds"
      @set="text => set(now => void (now.seconds = secondsIn(text)))"
    />,
    <CourseCurve
      :label="comes ? 'Course of coming' : 'Course of going'"
      :ease="move.ease"
      @set="ease => set(now => void (now.ease = ease))"
    />
  </template>
</template>
