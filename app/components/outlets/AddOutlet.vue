<script setup lang="ts">
/** "Add outlet": every format that is written, in groups, found by words; the keyboard reaches all of it. */
import { computed, nextTick, ref } from 'vue'
import type { PopoverInstance } from 'element-plus'
import { sayDepths } from '~~/core/media/formats/document'
import { familiesWith } from '~~/core/job/outlet/families'

defineProps<{ primary?: boolean }>()
const emit = defineEmits<{ add: [format: string] }>()
const popover = ref<PopoverInstance | null>(null)
const holder = ref<HTMLElement | null>(null)
const search = ref('')
const families = computed(() => familiesWith(search.value))
const first = computed(() => families.value[0]?.formats[0]?.id)

/** What is typed while it opens is kept: it is empty from the start. */
const opens = (): void => void (search.value = '')

async function shown(): Promise<void> {
  await nextTick()
  holder.value?.querySelector('input')?.focus({ preventScroll: true })
}

function take(format: string | undefined): void {
  if (!format) return
  popover.value?.hide()
  emit('add', format)
}

const buttons = (): HTMLElement[] => [...(holder.value?.querySelectorAll<HTMLElement>('input, button') ?? [])]

function key(event: KeyboardEvent): void {
  const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (by) {
    const all = buttons()
    all[(all.indexOf(document.activeElement as HTMLElement) + by + all.length) % all.length]?.focus()
  } else if (event.key === 'Escape') popover.value?.hide()
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <el-popover
    ref="popover"
    trigger="click"
    placement="bottom-end"
    :width="430"
    @before-enter="opens"
    @after-enter="shown"
  >
    <template #reference>
      <el-button :type="primary ? 'primary' : 'default'" aria-haspopup="dialog">Add outlet…</el-button>
    </template>
    <div ref="holder" class="add" role="dialog" aria-label="Formats of a new outlet" @keydown="key">
      <input
        v-model="search"
        type="search"
        placeholder="Find a format, a codec, a use"
        aria-label="Find a format"
        @keydown.enter.prevent="take(first)"
      />
      <div class="scroll families">
        <section v-for="family in families" :key="family.name">
          <h3>{{ family.name }}</h3>
          <button
            v-for="format in family.formats"
            :key="format.id"
            class="plain"
            :class="{ first: search && format.id === first }"
            @click="take(format.id)"
          >
            <span>{{ format.name }}</span>
            <span class="mono soft">{{ sayDepths(format) }}</span>
          </button>
        </section>
        <p v-if="!families.length" class="soft none">No format that Pour writes is called so.</p>
      </div>
    </div>
  </el-popover>
</template>

<style scoped>
.add {
  margin: -4px;
}

.add input {
  width: 100%;
  padding: 5px 8px;
  font: inherit;
  color: var(--ink);
  background: var(--raised);
  border: 1px solid var(--line-strong);
  border-radius: 3px;
}

.families {
  max-height: min(430px, 60vh);
  margin-top: 6px;
}

section h3 {
  margin: 8px 0 2px;
  padding: 0 8px;
  font-size: 11.5px;
  font-weight: 600;
  color: var(--soft);
}

section button {
  display: flex;
  justify-content: space-between;
  gap: 14px;
  width: 100%;
  padding: 3px 8px;
  text-align: left;
  color: var(--ink);
  border-radius: 3px;
}

section button:hover,
section button:focus-visible,
section button.first {
  background: var(--copper-wash);
  outline-offset: -2px;
}

.none {
  padding: 12px 8px;
}
</style>
