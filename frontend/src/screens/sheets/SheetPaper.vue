<script setup lang="ts">
import type { SheetView } from '../../data/api'

/** A rule sheet as a person reads it: what each placement takes, its guidance, limits, sound and handling. */
defineProps<{ view: SheetView }>()
const CODECS: Record<string, string> = { h264: 'H.264', hevc: 'HEVC', vp9: 'VP9', av1: 'AV1' }
const factors = (found: Record<string, number> | undefined) =>
  Object.entries(found ?? {}).map(([codec, factor]) => `${CODECS[codec] ?? codec} × ${factor}`).join(', ')
</script>

<template>
  <article class="sheet paper">
    <header class="row">
      <div>
        <h2>{{ view.sheet.name }} <span class="quiet kind">{{ view.sheet.kind }}</span></h2>
        <p class="tiny quiet">
          version {{ view.sheet.version }}, checked {{ view.sheet.checked_on }}{{ view.age_days ? `, ${view.age_days} days ago` : ', today' }}
          <template v-if="view.sheet.source"> · {{ view.sheet.source }}</template>
        </p>
        <p v-if="view.reminder" class="tiny"><b>{{ view.reminder }}</b></p>
      </div>
      <span class="grow" />
      <slot />
    </header>
    <section v-for="one in view.placements" :key="one.placement.id" class="place" :aria-label="one.placement.name">
      <div>
        <h3>{{ one.placement.name }}</h3>
        <dl>
          <div v-for="row in one.told" :key="row.about">
            <dt>{{ row.about }}</dt>
            <dd>{{ row.says }}</dd>
          </div>
        </dl>
      </div>
      <div v-if="one.grids.length" class="grids">
        <table v-for="grid in one.grids" :key="grid.codec + grid.dynamic_range">
          <caption>
            {{ CODECS[grid.codec] }}{{ grid.dynamic_range === 'hdr' ? ' HDR' : '' }}, Mbit/s
          </caption>
          <thead>
            <tr><th scope="col">short side</th><th scope="col">to 30</th><th scope="col">31 to 60</th></tr>
          </thead>
          <tbody>
            <tr v-for="row in grid.rows" :key="row.short_side_px">
              <th scope="row">{{ row.short_side_px }}</th>
              <td>{{ row.standard ?? '—' }}</td>
              <td>{{ row.high ?? '—' }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="factors(one.placement.guidance_factors)" class="tiny quiet">of H.264: {{ factors(one.placement.guidance_factors) }}</p>
        <a class="tiny" :href="`/api/sheets/${view.sheet.id}/${one.placement.id}/guidance.csv`" download>guidance as CSV</a>
      </div>
    </section>
  </article>
</template>

<style scoped>
.paper {
  padding: 14px 20px;
}

.kind {
  font: 14px var(--read);
}

.place {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 250px;
  gap: 26px;
  margin-top: 12px;
  padding-top: 10px;
  border-top: 1px dashed var(--line);
}

dl {
  margin: 4px 0 0;
}

dl > div {
  display: grid;
  grid-template-columns: 106px 1fr;
  gap: 10px;
  padding: 2px 0;
}

dt {
  color: var(--second-ink);
}

dd {
  margin: 0;
}

table {
  width: 100%;
  border-collapse: collapse;
  font: 13px var(--mono);
}

caption {
  padding-bottom: 2px;
  text-align: left;
  font: 600 13px var(--slab);
}

th,
td {
  padding: 1px 8px 1px 0;
  text-align: right;
  font-weight: 400;
  border-bottom: 1px solid var(--line);
}

thead th {
  color: var(--second-ink);
  font: 12.5px var(--read);
}

tbody th {
  font-weight: 700;
}
</style>
