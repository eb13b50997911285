<script setup lang="ts">
/** Where the columns will stand, while a job has none: the outlets most people begin with, by where they go. */
import AddOutlet from '~/components/outlets/AddOutlet.vue'
import { useRouter } from 'vue-router'
import { useDesk } from '~/stores/desk'
import { useJob } from '~/stores/job'
import { DESTINATIONS } from '~~/core/job/outlet/destinations'
import { guideTo } from '~~/core/job/outlet/guide'
import { newOutlet, tagLine, type Outlet } from '~~/core/job/outlet/outlet'
import { formatById } from '~~/core/open/registry'

const jobs = useJob()
const desk = useDesk()
const router = useRouter()
const OFFERED = ['editor', 'compositor', 'web', 'engine', 'playout', 'archive']
const offers = OFFERED.flatMap(id => {
  const destination = DESTINATIONS.find(each => each.id === id)
  const [advice] = destination ? guideTo(destination, 'usual') : []
  return destination && advice ? [{ destination, advice }] : []
})

async function take(made: Omit<Outlet, 'id'>): Promise<void> {
  const id = await jobs.addOutlet(made, 'Add outlet')
  const [first] = jobs.sources
  if (id && first) desk.choice = { kind: 'cell', sourceId: first.id, outletId: id }
}
</script>

<template>
  <section class="first scroll" aria-label="First outlet">
    <h2>Where does it go?</h2>
    <p class="soft">Each outlet becomes a column, and each source is poured through it. More can be added any time.</p>
    <ul>
      <li v-for="{ destination, advice } in offers" :key="destination.id">
        <button class="plain" @click="take(advice.outlet)">
          <strong>{{ destination.name }}</strong>
          <span class="mono soft">{{ tagLine(advice.outlet) }}</span>
        </button>
      </li>
    </ul>
    <p class="more">
      <el-button @click="router.push('/outlets?guide')">By where it goes…</el-button>
      <AddOutlet @add="format => take(newOutlet('', formatById(format)))" />
    </p>
  </section>
</template>

<style scoped>
.first {
  flex: 1;
  min-width: 0;
  padding: 26px 30px;
}

ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 10px;
  max-width: 760px;
  margin: 16px 0;
  padding: 0;
  list-style: none;
}

li button {
  display: flex;
  flex-direction: column;
  gap: 3px;
  width: 100%;
  height: 100%;
  padding: 11px 13px;
  text-align: left;
  background: var(--raised);
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
}

li button:hover,
li button:focus-visible {
  border-color: var(--copper);
  background: var(--copper-wash);
}

.more {
  display: flex;
  gap: 8px;
}

.more .el-button {
  margin: 0;
}
</style>
