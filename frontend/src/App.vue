<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import { RouterLink, RouterView, useRoute } from 'vue-router'

import { useDispatchNews } from './data/useDispatch'
import { useEvents } from './data/events'
import { useLook } from './data/useLook'
import { useUploads } from './data/uploads'
import DispatchStrip from './parts/DispatchStrip.vue'
import DropAnywhere from './parts/DropAnywhere.vue'

const route = useRoute()
const events = useEvents()
const uploads = useUploads()
const { dark, toggle } = useLook()
useDispatchNews()
/** What a screen shows: another film or parcel gets a screen of its own, so that nothing of the former is left in it. */
const shownThing = computed(() => {
  const { masterId, parcelId, receiptId, returnedId, sendingId } = route.params
  return [route.name, masterId, parcelId, receiptId, returnedId, sendingId].join(' ')
})
const links = [
  { to: { name: 'shelf' }, text: 'Shelf', marks: ['shelf', 'master', 'lanes', 'framing', 'bench', 'look', 'pair', 'sayings'] },
  { to: { name: 'dispatch' }, text: 'Dispatch', marks: ['dispatch'] },
  { to: { name: 'receipts' }, text: 'Receipts', marks: ['receipts', 'film-look', 'watch', 'learn'] },
  { to: { name: 'sheets' }, text: 'Rule sheets', marks: ['sheets', 'trust'] },
  { to: { name: 'recipes' }, text: 'Recipes', marks: ['recipes'] },
  { to: { name: 'machine' }, text: 'Line & machine', marks: ['machine'] },
]
</script>

<template>
  <a class="skip" href="#main">To the content</a>
  <header class="kraft">
    <RouterLink :to="{ name: 'shelf' }" class="brand">Hardy Parcel</RouterLink>
    <nav aria-label="Screens">
      <RouterLink
        v-for="link in links"
        :key="link.text"
        :to="link.to"
        :class="{ here: link.marks.includes(String(route.name)) }"
        :aria-current="link.marks.includes(String(route.name)) ? 'page' : undefined"
        >{{ link.text }}</RouterLink
      >
    </nav>
    <span class="grow" />
    <RouterLink v-if="uploads.under.length" :to="{ name: 'shelf' }" role="status">{{ uploads.under.length }} arriving</RouterLink>
    <button type="button" class="look" :aria-label="dark ? 'day: change to the light look' : 'night: change to the dark look'" @click="toggle">
      {{ dark ? 'day' : 'night' }}
    </button>
    <span v-if="events.lost" class="lost" role="status">No connection to Hardy Parcel. <ElButton size="small" @click="events.reconnect()">Connect again</ElButton></span>
  </header>
  <main id="main" tabindex="-1"><RouterView v-slot="{ Component }"><component :is="Component" :key="shownThing" /></RouterView></main>
  <DispatchStrip />
  <DropAnywhere />
</template>

<style scoped>
.kraft {
  display: flex;
  align-items: center;
  gap: 26px;
  height: 46px;
  padding: 0 28px;
  background: var(--kraft);
  color: var(--kraft-ink);
}

.brand {
  font: 600 20px var(--slab);
  text-decoration: none;
}

nav {
  display: flex;
  gap: 22px;
  height: 100%;
}

nav a {
  display: flex;
  align-items: center;
  border-bottom: 4px solid transparent;
  border-top: 4px solid transparent;
  text-decoration: none;
}

nav a:hover {
  border-bottom-color: color-mix(in srgb, var(--kraft-ink) 40%, transparent);
}

nav a.here {
  border-bottom-color: var(--kraft-ink);
  font-weight: 700;
}

.kraft :focus-visible {
  outline-color: var(--kraft-ink);
  outline-offset: -2px;
}

.look {
  padding: 1px 10px;
  border: 1px solid currentcolor;
  border-radius: var(--corner);
  background: transparent;
  color: inherit;
  font: 600 14px var(--slab);
  cursor: pointer;
}

.lost {
  font-weight: 700;
}

main {
  min-height: calc(100% - 46px);
  padding-bottom: 44px;
  outline: none;
}

.skip {
  position: absolute;
  left: -999px;
}

.skip:focus {
  left: 8px;
  top: 8px;
  padding: 4px 10px;
  background: var(--sheet);
  z-index: 10;
}
</style>
