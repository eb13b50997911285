<script setup lang="ts">
/** What this is, what it keeps and where, and whose work it is built on. */
import { useRuntimeConfig } from 'nuxt/app'
import { ref, watch } from 'vue'

const open = defineModel<boolean>({ required: true })
const { version } = useRuntimeConfig().public
const packages = ref<string[][]>([])

watch(open, async now => {
  if (now && packages.value.length === 0) packages.value = (await import('~/third-party.json')).default
})
</script>

<template>
  <el-dialog v-model="open" title="About Pour" width="620px" align-center>
    <p>
      Pour {{ version }} turns transparent animations into the files that editors, engines and pages need, and proves
      that the transparency survives. Everything is computed on this machine; nothing that is brought in leaves it.
    </p>
    <h2>Built on</h2>
    <div class="list scroll" tabindex="0" role="region" aria-label="Packages that Pour is built on">
      <table>
        <tbody>
          <tr v-for="[name, number, licence] in packages" :key="`${name} ${number}`">
            <td>{{ name }}</td>
            <td class="mono soft">{{ number }}</td>
            <td>{{ licence }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="soft small">
      Whole texts lie in the packages themselves; THIRD-PARTY-NOTICES.md names who holds the rights.
    </p>
  </el-dialog>
</template>

<style scoped>
h2 {
  margin: 16px 0 8px;
}

.list {
  max-height: 320px;
  border: 1px solid var(--line);
  border-radius: var(--radius);
}

table {
  width: 100%;
  border-collapse: collapse;
}

td {
  padding: 3px 10px;
  border-bottom: 1px solid var(--line);
}

.small {
  margin-top: 8px;
  font-size: 12px;
}
</style>
