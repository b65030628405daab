<script setup lang="ts">
import { ElButton, ElDialog } from 'element-plus'
import { ref } from 'vue'

import HatchPatterns from './HatchPatterns.vue'

/** What 0 to 100 means, wherever a condition is shown: one line, and all of it on request. */
defineProps<{ brief?: boolean }>()
const open = ref(false)
const WORDS: [string, string][] = [
  ['90 to 100', 'imperceptible'], ['75 to 89', 'perceptible, not annoying'], ['60 to 74', 'slightly annoying'], ['40 to 59', 'annoying'], ['below 40', 'very annoying'],
]
const EVIDENCE: [string, string, string][] = [
  ['○', 'not tested', 'Nothing of it was encoded yet; there is a range and no figure.'],
  ['◐', 'sample clips', 'Short clips of your video were encoded at a few qualities and sent through a stand-in of the platform; the rest is computed.'],
  ['●', 'these settings', 'Clips of your video were encoded with exactly these settings, re-encoded as the platform does, and measured.'],
  ['◆', 'the real file', 'Measured on a file that the platform served back.'],
]
</script>

<template>
  <ElButton v-if="brief" link @click="open = true">What the numbers mean</ElButton>
  <div v-else class="explained tiny" role="note" aria-label="What the numbers mean">
    <b>What the numbers mean</b>
    <span>100 looks exactly like your master</span>
    <span>6 points are just visible</span>
    <span class="key"><i class="arrives" />arrives</span>
    <span class="key">
      <svg viewBox="0 0 8 5" preserveAspectRatio="none" aria-hidden="true"><rect width="8" height="5" fill="url(#hatch-packing)" /></svg>lost in packing
    </span>
    <span class="key">
      <svg viewBox="0 0 8 5" preserveAspectRatio="none" aria-hidden="true"><rect width="8" height="5" fill="url(#hatch-platform)" /></svg>lost by the platform
    </span>
    <span>± how sure it is</span>
    <span>○ not tested · ◐ sample clips · ● these settings · ◆ the real file</span>
    <ElButton link size="small" @click="open = true">More</ElButton>
  </div>
  <ElDialog v-model="open" title="What the numbers mean" width="640" align-center append-to-body>
    <HatchPatterns />
    <p>Each figure from 0 to 100 is the condition of the picture that a viewer gets, against your master on the same screen. 100 looks exactly like the master. Two figures that are less than 6 points apart look the same to nearly everybody.</p>
    <table>
      <tbody>
        <tr v-for="[range, words] in WORDS" :key="range"><th scope="row">{{ range }}</th><td>{{ words }}</td></tr>
      </tbody>
    </table>
    <p><b>As packed</b> is the file that you send. <b>As arrived</b> is what is left once the platform has encoded it again and the viewer’s screen shows it. Every figure is as arrived unless it says otherwise.</p>
    <p><b>±</b> is how far a figure may be off: 19 of 20 lie within. Differences between two ways of the same video are surer than either figure, since what is wrong with both falls out.</p>
    <p class="bars"><span class="key"><i class="arrives" />arrives</span> then what was lost, in the order in which it went: <span class="key"><svg viewBox="0 0 8 5" preserveAspectRatio="none" aria-hidden="true"><rect width="8" height="5" fill="url(#hatch-scaling)" /></svg>by scaling</span> <span class="key"><svg viewBox="0 0 8 5" preserveAspectRatio="none" aria-hidden="true"><rect width="8" height="5" fill="url(#hatch-packing)" /></svg>in packing</span> <span class="key"><svg viewBox="0 0 8 5" preserveAspectRatio="none" aria-hidden="true"><rect width="8" height="5" fill="url(#hatch-platform)" /></svg>by the platform</span></p>
    <dl>
      <template v-for="[mark, name, words] in EVIDENCE" :key="mark"><dt>{{ mark }} {{ name }}</dt><dd>{{ words }}</dd></template>
    </dl>
    <p><b>Recommended</b> is the smallest upload that is not visibly worse than the best that was tested. Two marks stand on each curve: from where on it lies <i>within a noticeable step</i> (6 points) of a perfect upload, and from where on it <i>can’t be told</i> from one. Each runs from where it may begin to where it surely does.</p>
    <template #footer><ElButton @click="open = false">Close</ElButton></template>
  </ElDialog>
</template>

<style scoped>
.explained {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 18px;
  margin-top: 12px;
  padding: 8px 12px;
  background: var(--sheet);
  border: 1px solid var(--line);
}

.key {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  white-space: nowrap;
}

.key i,
.key svg {
  display: inline-block;
  width: 30px;
  height: 9px;
}

.arrives {
  background: var(--airmail);
}

p {
  margin: 0 0 10px;
}

table {
  margin: 0 0 10px;
  border-collapse: collapse;
}

th {
  padding: 1px 18px 1px 0;
  text-align: left;
  font: 600 14px var(--slab);
}

dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 3px 14px;
  margin: 0 0 10px;
}

dt {
  font-weight: 700;
}

dd {
  margin: 0;
}
</style>
