<script setup lang="ts">
import { RouterLink } from 'vue-router'

import { api, type ParcelSummary } from '../../data/api'
import { useViewer } from '../../data/viewer'
import { place, ratio } from '../../data/words'

/** The moments that arrive worst, as they arrive; each leads to the picture bench. */
const props = defineProps<{ summary: ParcelSummary }>()
const viewer = useViewer()
const picture = (moment: ParcelSummary['suffers'][number]) =>
  api.lookPicture(
    props.summary.parcel.id, moment.target_bps, moment.reel_index, viewer.screen, viewer.line, 'arrived',
  )
</script>

<template>
  <section class="suffers" aria-labelledby="suffers-title">
    <div>
      <h2 id="suffers-title">Suffers most</h2>
      <p class="quiet tiny">as it arrives; open one to compare</p>
    </div>
    <RouterLink
      v-for="moment in summary.suffers"
      :key="moment.reel_index"
      :to="{
        name: 'look',
        params: { parcelId: summary.parcel.id },
        query: { rate: moment.target_bps, picture: moment.reel_index },
      }"
    >
      <img :src="picture(moment)" :alt="`arrived picture at ${place(ratio(moment.master_s))}`" loading="lazy" />
      <span class="mono tiny">{{ place(ratio(moment.master_s)) }} · {{ moment.condition.toFixed(0) }}</span>
    </RouterLink>
  </section>
</template>

<style scoped>
.suffers {
  display: grid;
  grid-template-columns: 104px;
  grid-auto-flow: column;
  grid-auto-columns: minmax(0, 1fr);
  gap: 12px;
}

a {
  text-decoration: none;
  text-align: center;
}

img {
  display: block;
  width: 100%;
  height: 74px;
  object-fit: contain;
  background: var(--neutral);
}

a:hover img {
  outline: 2px solid var(--ink);
}
</style>
