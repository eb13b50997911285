<script setup lang="ts">
/**
 * Outlets by where they go and what matters there, best first, each with its reason, its cost and what the receiver has
 * to set.
 */
import { computed, ref } from 'vue'
import { DESTINATIONS, MATTERS, type Matter } from '~~/core/job/outlet/destinations'
import { guideTo, type Advice } from '~~/core/job/outlet/guide'
import { tagLine } from '~~/core/job/outlet/outlet'

const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ add: [advice: Advice] }>()
const to = ref(DESTINATIONS[0]!.id)
const matter = ref<Matter>(MATTERS[0].id)
const destination = computed(() => DESTINATIONS.find(({ id }) => id === to.value)!)
const advice = computed(() => guideTo(destination.value, matter.value).slice(0, 4))

function take(each: Advice): void {
  emit('add', each)
  open.value = false
}
</script>

<template>
  <el-dialog v-model="open" title="An outlet by where it goes" width="660px" top="8vh">
    <div class="asked">
      <label
        ><span>It goes to</span>
        <el-select v-model="to" aria-label="Where it goes">
          <el-option v-for="each in DESTINATIONS" :key="each.id" :value="each.id" :label="each.name" />
        </el-select>
      </label>
      <label
        ><span>What matters most</span>
        <el-select v-model="matter" aria-label="What matters most">
          <el-option v-for="each in MATTERS" :key="each.id" :value="each.id" :label="each.name" />
        </el-select>
      </label>
    </div>
    <ol class="advice">
      <li v-for="(each, n) in advice" :key="each.format.id">
        <span class="place mono">{{ n + 1 }}</span>
        <div>
          <strong>{{ each.format.name }}</strong>
          <span class="mono soft recipe">{{ tagLine(each.outlet) }}</span>
          <p>{{ each.reason }} {{ each.cost }}</p>
        </div>
        <el-button
          :type="n === 0 ? 'primary' : 'default'"
          size="small"
          :aria-label="`Add ${each.format.name}`"
          @click="take(each)"
          >Add</el-button
        >
      </li>
    </ol>
    <p class="soft receiver"><strong>The receiver:</strong> {{ destination.receiver }}</p>
  </el-dialog>
</template>

<style scoped>
.asked {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 16px;
  margin-bottom: 12px;
}

.asked span {
  display: block;
  margin-bottom: 4px;
  color: var(--soft);
}

.advice {
  padding: 0;
  margin: 0;
  list-style: none;
  border-top: 1px solid var(--line);
}

.advice li {
  display: flex;
  align-items: flex-start;
  gap: 12px;
  padding: 9px 0;
  border-bottom: 1px solid var(--line);
}

.advice li > div {
  flex: 1;
}

.advice p {
  margin: 2px 0 0;
}

.place {
  width: 14px;
  color: var(--soft);
}

.advice .recipe {
  display: block;
  margin: 0;
}

.receiver {
  margin: 12px 0 0;
}
</style>
