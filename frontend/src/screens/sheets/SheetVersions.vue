<script setup lang="ts">
import { ElButton } from 'element-plus'
import { ref, shallowRef } from 'vue'

import { api, Trouble, type SheetView, type VersionView } from '../../data/api'

/** Older versions of a sheet: what has changed since, and bringing one back. */
const props = defineProps<{ view: SheetView }>()
const emit = defineEmits<{ bring: [version: number] }>()
const shown = shallowRef<VersionView>()
const problem = ref('')
async function show(version: number): Promise<void> {
  problem.value = ''
  try {
    shown.value = shown.value?.sheet.version === version ? undefined : await api.sheetVersion(props.view.sheet.id, version)
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'This version could not be fetched.'
  }
}
</script>

<template>
  <section v-if="view.versions.length > 1" class="versions" aria-label="Versions">
    <h2>Versions</h2>
    <p v-if="problem" role="alert">{{ problem }}</p>
    <div class="row wrap">
      <button
        v-for="one in [...view.versions].reverse()" :key="one.version" type="button" class="chip" :disabled="one.version === view.sheet.version"
        :aria-pressed="shown?.sheet.version === one.version" @click="show(one.version)"
      >
        {{ one.version }}<span class="tiny"> · {{ one.checked_on }}{{ one.version === view.sheet.version ? ' · in use' : '' }}</span>
      </button>
    </div>
    <div v-if="shown" class="sheet compared">
      <div class="row">
        <p>From version {{ shown.sheet.version }} to {{ view.sheet.version }}: {{ shown.changes.length ? `${shown.changes.length} ${shown.changes.length === 1 ? 'change' : 'changes'}` : 'nothing changed' }}</p>
        <span class="grow" />
        <ElButton v-if="shown.changes.length" size="small" @click="emit('bring', shown!.sheet.version)">Bring version {{ shown.sheet.version }} back</ElButton>
      </div>
      <table v-if="shown.changes.length">
        <tbody>
          <tr v-for="change in shown.changes" :key="change.path">
            <th scope="row">{{ change.path }}</th>
            <td>{{ change.before ?? '—' }}</td>
            <td>→ {{ change.after ?? '—' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.versions {
  margin-top: 14px;
}

.wrap {
  flex-wrap: wrap;
  margin: 6px 0;
}

.compared {
  padding: 8px 14px;
}

table {
  width: 100%;
  border-collapse: collapse;
  font: 12.5px var(--mono);
}

th {
  padding-right: 14px;
  text-align: left;
  font-weight: 400;
  color: var(--second-ink);
}

td {
  padding: 1px 12px 1px 0;
  overflow-wrap: anywhere;
}
</style>
