<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { ElButton, ElDialog, ElInput } from 'element-plus'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'

import { api, Trouble, type ParcelView } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import { bytes, seconds } from '../../data/words'
import LastLook from './LastLook.vue'

/** The last look before packing: the name it gets, where it goes, what of the master changes, what wants care. */
const props = defineProps<{ view: ParcelView }>()
const open = defineModel<boolean>({ required: true })
const router = useRouter()

const extension = computed(() => `.${props.view.summary.plan.container.value}`)
const name = ref(props.view.final_name.replace(/\.[^.]+$/, ''))
const care = computed(() => props.view.summary.stamps.filter((stamp) => stamp.outcome === 'handle with care'))
const folder = ref(props.view.output_folder)
const refused = ref('')
const sending = ref(false)
const settled = refDebounced(folder, 400)
const { value: look } = useAnswer((signal) => api.lastLook(props.view.summary.parcel.id, settled.value.trim(), signal), [settled])
/** What a note below says with advice is not said twice. */
const surprises = computed(() => (look.value?.surprises ?? []).filter((one) => !care.value.some((stamp) => stamp.sentence.startsWith(one.replace(/\.$/, '')))))

async function pack(): Promise<void> {
  refused.value = ''
  sending.value = true
  try {
    await api.pack(props.view.summary.parcel.id, props.view.summary.plan_key, name.value.trim() + extension.value, folder.value.trim() || null)
    open.value = false
    await router.push({ name: 'dispatch' })
  } catch (error) {
    refused.value = error instanceof Trouble ? error.message : 'Packing could not be started.'
  } finally {
    sending.value = false
  }
}
</script>

<template>
  <ElDialog v-model="open" title="Pack this parcel" width="720" align-center>
    <form id="pack-form" @submit.prevent="pack">
      <label for="pack-name">File name</label>
      <ElInput id="pack-name" v-model="name" class="mono"
        ><template #append>{{ extension }}</template></ElInput
      >
      <p v-if="view.name_taken" class="quiet tiny">The usual name is taken; this one is free.</p>
      <label for="pack-folder" class="into">Folder</label>
      <ElInput id="pack-folder" v-model="folder" class="mono" />
      <p v-if="look" class="tiny" :class="look.room?.enough ? 'quiet' : 'tight'">{{ look.room?.sentence ?? 'This folder cannot be used as it is.' }}</p>
      <p v-if="view.summary.plan.captions.value?.startsWith('beside')" class="where">Its captions go in a file of the same name beside it.</p>
      <p class="where">
        {{ view.summary.packed_phrase }}, about {{ bytes(view.summary.figures.size.expected_bytes) }}, some
        {{ seconds(view.summary.figures.encode.seconds) }} of encoding.
      </p>
      <ul v-if="surprises.length || look?.packed_before" class="care">
        <li v-for="one in surprises" :key="one">{{ one }}</li>
        <li v-if="look?.packed_before">It was packed so before: <RouterLink :to="{ name: 'receipts', hash: `#${look.packed_before}` }">open its receipt</RouterLink>, or pack another one.</li>
      </ul>
      <LastLook v-if="look" :look="look" />
      <ul v-if="care.length" class="care">
        <li v-for="stamp in care" :key="stamp.code">
          <strong>{{ stamp.matter }}</strong>: {{ stamp.sentence }}
        </li>
      </ul>
      <p v-if="refused" role="alert" class="refused">{{ refused }}</p>
    </form>
    <template #footer>
      <div class="row end">
        <ElButton @click="open = false">Not yet</ElButton>
        <ElButton class="sends" native-type="submit" form="pack-form" :disabled="!name.trim() || sending">
          {{ care.length ? 'Pack with care' : 'Pack it' }}
        </ElButton>
      </div>
    </template>
  </ElDialog>
</template>

<style scoped>
.into {
  display: block;
  margin-top: 10px;
}

.where {
  margin: 10px 0;
  overflow-wrap: anywhere;
}

.care {
  margin: 12px 0 0;
  padding: 10px 12px 10px 28px;
  background: var(--care-ground);
  border: 1px solid var(--care);
}

.tight {
  font-weight: 700;
}

.refused {
  margin-top: 10px;
  font-weight: 700;
}

.end {
  justify-content: flex-end;
}
</style>
