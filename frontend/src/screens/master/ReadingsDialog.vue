<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'
import { onMounted, ref } from 'vue'

import { api, Trouble, type ColourReading, type Master } from '../../data/api'

/** An untagged picture in each way that its colours may be meant, side by side, to choose the one that looks right. */
const props = defineProps<{ master: Master; readings: ColourReading[]; number: number }>()
const emit = defineEmits<{ choose: [reading: ColourReading | null] }>()
const open = defineModel<boolean>({ required: true })
const pictures = ref<Partial<Record<ColourReading, string>>>({})
const problem = ref('')
const words = (reading: ColourReading) => `BT.${reading.replace(' ', ', ')} range`
const chosen = () => props.master.facts?.mending?.colour ?? null

onMounted(async () => {
  try {
    for (const reading of props.readings) {
      const found = await api.picture(props.master.id, props.number, true, reading)
      pictures.value = { ...pictures.value, [reading]: found.picture }
    }
  } catch (error) {
    problem.value = error instanceof Trouble ? error.message : 'The pictures could not be fetched.'
  }
})
function take(reading: ColourReading | null): void {
  emit('choose', reading)
  open.value = false
}
</script>

<template>
  <ElDialog v-model="open" title="How are these colours meant?" width="900" align-center>
    <p class="quiet">The file does not say. Choose the picture whose skin, sea and blacks look as they should; nothing in the file is changed.</p>
    <p v-if="problem" role="alert">{{ problem }}</p>
    <div class="readings">
      <figure v-for="reading in readings" :key="reading">
        <img v-if="pictures[reading]" :src="pictures[reading]" :alt="`Read as ${words(reading)}`" />
        <span v-else class="waiting" />
        <figcaption class="row">
          <span class="grow">{{ words(reading) }}</span>
          <ElButton size="small" :aria-pressed="chosen() === reading" @click="take(reading)">{{ chosen() === reading ? 'Read so now' : 'Read it so' }}</ElButton>
        </figcaption>
      </figure>
    </div>
    <template v-if="chosen()" #footer><ElButton @click="take(null)">Leave it to the guess</ElButton></template>
  </ElDialog>
</template>

<style scoped>
.readings {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  padding: 10px;
  background: var(--neutral);
}

figure {
  margin: 0;
  background: var(--sheet);
}

img,
.waiting {
  display: block;
  width: 100%;
  height: 210px;
  object-fit: contain;
  background: var(--neutral);
}

figcaption {
  padding: 5px 8px;
}
</style>
