<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

import type { LaneSeen, LaneView, Master, ShapeCell, ShapeTable } from '../../data/api'
import { useViewer } from '../../data/viewer'
import { bytes, percent } from '../../data/words'
import ConditionGauge from '../../parts/ConditionGauge.vue'
import EvidenceMark from '../../parts/EvidenceMark.vue'
import FramedPicture from '../../parts/FramedPicture.vue'
import LikelyRange from '../../parts/LikelyRange.vue'

/** Destinations down, shapes across: which shape arrives how where, and how much of the picture is kept for it. */
const props = defineProps<{ master: Master; table: ShapeTable; shown: LaneView[]; seen: (view: LaneView) => LaneSeen | undefined }>()
const emit = defineEmits<{ try: [parcelId: string, ratio: string] }>()
const viewer = useViewer()
const rows = computed(() => props.table.rows.filter((row) => props.shown.some(({ lane }) => lane.sheet_name === row.sheet_name)))
const inside = (cell: ShapeCell): LaneView[] => props.shown.filter(({ lane }) => !lane.beside && (cell.parcels ?? []).includes(lane.parcel.id))
const screens = { phone: 'a phone’s', laptop: 'a laptop’s', tv: 'a TV’s' }
</script>

<template>
  <table class="shapes" aria-label="Lanes by shape">
    <thead>
      <tr class="slab">
        <th scope="col">Platform</th>
        <th v-for="column in table.columns" :key="column.words" scope="col">{{ column.words }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.sheet_name">
        <th scope="row" class="slab">{{ row.sheet_name }}</th>
        <td v-for="(cell, at) in row.cells" :key="at" :class="{ empty: !inside(cell).length }">
          <div v-for="view in inside(cell).slice(0, 2)" :key="view.lane.parcel.id" class="way">
            <FramedPicture v-if="view.lane.framing" :master="master" :framing="view.lane.framing" :height="Math.min(40, (54 * view.lane.framing.height) / view.lane.framing.width)" />
            <div class="grow">
              <p class="row head">
                <RouterLink class="cut grow" :to="{ name: 'bench', params: { parcelId: view.lane.parcel.id } }">{{ view.lane.parcel.name || (view.lane.parcel.sibling_of && view.lane.difference) || view.lane.placement_name }}</RouterLink>
                <template v-if="seen(view)?.at">
                  <b class="figure">{{ seen(view)!.at!.condition.toFixed(0) }}</b>
                  <EvidenceMark :evidence="seen(view)!.at!.evidence" :band="seen(view)!.at!.band" :assumed="seen(view)!.at!.assumed" />
                </template>
              </p>
              <ConditionGauge v-if="seen(view)?.at" :at="seen(view)!.at!" brief />
              <LikelyRange v-else-if="view.lane.target_bps" :likely="seen(view)?.likely" />
              <p class="tiny quiet cut" :title="`What is kept of the picture, how much of ${screens[viewer.screen]} height it has, and how large the file is`">
                {{ (view.lane.kept_area ?? 1) > 0.995 ? 'all of it' : `${percent(view.lane.kept_area ?? 1)} of the picture` }} · {{ percent(seen(view)?.picture_height ?? 0) }} high · {{ bytes(view.lane.figures.size.expected_bytes) }}
              </p>
            </div>
          </div>
          <p v-if="inside(cell).length > 2" class="tiny quiet">and {{ inside(cell).length - 2 }} more {{ inside(cell).length === 3 ? 'way' : 'ways' }}</p>
          <p v-if="!(cell.parcels ?? []).length" class="quiet tiny why">
            {{ cell.why_empty }}
            <ElButton v-if="cell.tries" size="small" @click="emit('try', cell.tries, table.columns[at].ratio)">Try it</ElButton>
          </p>
          <p v-else-if="!inside(cell).length" class="quiet tiny why">hidden</p>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.shapes {
  width: 100%;
  border-collapse: collapse;
  table-layout: fixed;
}

th {
  text-align: left;
  font-weight: 400;
}

thead th {
  padding: 0 10px 3px 0;
  border-bottom: 2px solid var(--ink);
  color: var(--second-ink);
}

thead th:first-child {
  width: 96px;
}

tbody th,
td {
  padding: 6px 12px 6px 0;
  border-bottom: 1px dashed var(--line);
  vertical-align: top;
}

.way {
  display: flex;
  gap: 10px;
  align-items: flex-start;
}

.way + .way {
  margin-top: 6px;
}

.head {
  gap: 8px;
}

.figure {
  font: 600 18px/1 var(--slab);
}

.why {
  padding-top: 4px;
}
</style>
