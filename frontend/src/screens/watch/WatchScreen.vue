<script setup lang="ts">
import { ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import { useEvents } from '../../data/events'
import { api } from '../../data/api'
import { useAnswer } from '../../data/useAnswer'
import { mbps } from '../../data/words'
import NumbersExplained from '../../parts/NumbersExplained.vue'
import TroubleNote from '../../parts/TroubleNote.vue'
import { useWatching } from './useWatching'

/** What a viewer gets, on a screen and over a line: a file that the platform serves, a smaller one as soon as the line is too slow for it. */
const props = defineProps<{ sendingId: string }>()
const events = useEvents()
const { value: view, trouble, again } = useAnswer((signal) => api.sending(props.sendingId, signal), [() => props.sendingId], [events.of('sending')])
const { screen, line, lines, file, source, hold, stalled, begin, said, ladder } = useWatching(view)
const seen = computed(() => view.value?.seen.find((one) => one.screen === screen.value && one.file === file.value?.name))
const widths: Record<string, string> = { phone: '50%', laptop: '84%', tv: '100%' }
</script>

<template>
  <div class="page">
    <TroubleNote v-if="trouble" :trouble="trouble" @again="again" />
    <template v-if="view">
      <div class="row">
        <h1 class="cut">{{ view.sending.words?.title || view.sending.file_name }}</h1>
        <span class="grow" />
        <RouterLink :to="{ name: 'receipts', hash: `#${view.sending.receipt_id}` }">Its receipt</RouterLink>
      </div>
      <p class="first-sentence">{{ view.sentence }}</p>
      <div class="row choose">
        <ElRadioGroup v-model="screen" size="small" aria-label="Screen">
          <ElRadioButton value="phone">Phone</ElRadioButton><ElRadioButton value="laptop">Laptop</ElRadioButton><ElRadioButton value="tv">TV</ElRadioButton>
        </ElRadioGroup>
        <ElRadioGroup v-model="line" size="small" aria-label="Viewer’s line">
          <ElRadioButton v-for="one in lines" :key="one.key" :value="one.key">{{ one.words }}</ElRadioButton>
        </ElRadioGroup>
        <span class="grow" />
        <span class="quiet cut" role="status">{{ said }}</span>
      </div>
      <div v-if="file" class="theatre">
        <!-- Shown as large as the screen is to its viewer, so that a phone's picture is not judged as a TV's. -->
        <video :ref="hold" :key="source" :src="source" controls playsinline :style="{ width: widths[screen] }" :aria-label="view.sending.file_name" @waiting="stalled" @loadedmetadata="begin" />
      </div>
      <p v-else class="quiet empty">Nothing with a picture came back yet.</p>
      <p v-if="file" class="figures"><b>{{ file.name }}</b> · {{ file.width }}×{{ file.height }} at {{ mbps(file.video_bps ?? 0) }}<template v-if="seen"> · <b class="slab">{{ seen.condition.toFixed(0) }}</b> of 100 on this screen</template> <span class="quiet">of {{ ladder.length === 1 ? 'one file' : `${ladder.length} files` }} that are served</span></p>
      <p v-if="view.sending.words?.description" class="words">{{ view.sending.words.description }}</p>
      <p v-if="view.sending.words?.tags?.length" class="quiet">{{ view.sending.words.tags.map((tag) => `#${tag}`).join('  ') }}</p>
    </template>
    <p class="quiet"><NumbersExplained brief /></p>
  </div>
</template>

<style scoped>
.choose {
  margin-top: 10px;
}

.theatre {
  margin-top: 10px;
  padding: 14px;
  background: #2b2b2b;
  text-align: center;
}

video {
  max-width: 100%;
  max-height: calc(100vh - 330px);
  background: #000;
}

.figures,
.words {
  margin-top: 8px;
}

.words {
  max-width: 82ch;
  white-space: pre-line;
}

.empty {
  margin-top: 16px;
}
</style>
