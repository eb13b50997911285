<script setup lang="ts">
/** What the user must know of the store: what could not be opened, what is not on disk, what is gone. */
import { download } from '~/composables/useDownload'
import { useRescue } from '~/composables/useRescue'
import { liveQuery } from 'dexie'
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { database, type StoredAside } from '~/db/database'
import { rowsAsText } from '~/db/rescue'
import { useJob } from '~/stores/job'
import { sentenceOf } from '~~/core/base/errors'

const jobs = useJob()
const aside = ref<StoredAside[]>([])
const { saving, failed, save: saveAll } = useRescue()
const SHOWN = 3

let following: { unsubscribe(): void } | null = null
onMounted(() => {
  following = liveQuery(() => database.aside.toArray()).subscribe({
    next: rows => (aside.value = rows),
    // the notice is missing then, and the store's own failure is told where it is met
    error: error => (failed.value = sentenceOf(error))
  })
})
onBeforeUnmount(() => following?.unsubscribe())

function saveAside(): void {
  download('set-aside.json', new Blob([rowsAsText(aside.value)], { type: 'application/json' }))
}
</script>

<template>
  <div v-if="jobs.unwritten" class="notice fault" role="alert">
    <p>
      <strong>The last edits are not on disk.</strong> {{ jobs.unwritten }} Pour keeps them and tries again; leave this
      page open.
    </p>
    <button class="link" :disabled="saving" @click="saveAll">Save everything</button>
  </div>
  <div v-if="jobs.lost" class="notice" role="alert">
    <p>
      <strong>“{{ jobs.lost.name }}” is no longer here.</strong> It had {{ jobs.lost.sources }}
      {{ jobs.lost.sources === 1 ? 'source' : 'sources' }} when it was last written. The browser has cleared its store,
      or it was cleared by hand. This is a new job.
    </p>
    <button class="link" @click="jobs.lost = null">Close</button>
  </div>
  <div v-if="aside.length" class="notice" role="alert">
    <div>
      <p>
        <strong
          >{{ aside.length === 1 ? 'One stored thing' : `${aside.length} stored things` }} could not be opened as
          {{ aside.length === 1 ? 'it was' : 'they were' }}</strong
        >
        and {{ aside.length === 1 ? 'was' : 'were' }} set aside; the rest is here.
      </p>
      <ul>
        <li v-for="each in aside.slice(0, SHOWN)" :key="each.id">{{ each.what }}: {{ each.why }}</li>
        <li v-if="aside.length > SHOWN">and {{ aside.length - SHOWN }} more</li>
      </ul>
    </div>
    <button class="link" @click="saveAside">Save what was set aside</button>
    <button class="link" @click="database.aside.clear()">Let it go</button>
  </div>
  <p v-if="failed" class="notice fault" role="alert">{{ failed }}</p>
</template>

<style scoped>
.notice {
  flex: none;
  display: flex;
  align-items: start;
  gap: 16px;
  padding: 8px 14px;
  background: var(--ochre-wash);
  border-bottom: 1px solid var(--line);
}

.notice > :first-child {
  flex: 1;
}

.fault {
  border-left: 3px solid var(--brick);
}

ul {
  margin: 4px 0 0;
  padding-left: 18px;
  font-size: 12px;
  color: var(--soft);
}
</style>
