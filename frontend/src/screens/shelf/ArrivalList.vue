<script setup lang="ts">
import { onMounted } from 'vue'

import { useUploads, type Arrival } from '../../data/uploads'
import { bytes } from '../../data/words'

/** What is being sent to the shelf, and what an earlier page left half-way. */
const uploads = useUploads()
onMounted(() => uploads.look())

const words: Record<Arrival['state'], string> = {
  waiting: 'waits its turn',
  sending: 'on its way',
  paused: 'paused',
  comparing: 'comparing checksums',
  done: 'arrived whole; on the shelf',
  failed: 'failed',
}
const share = (one: Arrival) => (one.size ? Math.min(1, one.sent / one.size) : 1)
</script>

<template>
  <ul v-if="uploads.arrivals.length || uploads.left.length" class="sheet arrivals" aria-label="Arriving">
    <li v-for="one in uploads.arrivals" :key="one.key">
      <span class="name cut" :title="one.name">{{ one.name }}</span>
      <progress
        :value="one.state === 'done' || one.state === 'comparing' ? 1 : share(one)"
        max="1"
        :aria-label="`Sent of ${one.name}`"
      />
      <span class="mono figures">{{ bytes(one.state === 'done' ? one.size : one.sent) }} of {{ bytes(one.size) }}</span>
      <span class="state" :role="one.state === 'failed' ? 'alert' : undefined">{{
        one.state === 'failed' ? one.problem : words[one.state]
      }}</span>
      <span class="acts">
        <button v-if="one.state === 'sending'" type="button" class="link" @click="uploads.pause(one)">pause</button>
        <button
          v-if="one.state === 'paused' || one.state === 'failed'"
          type="button"
          class="link"
          @click="uploads.goOn(one)"
        >
          go on
        </button>
        <button v-if="one.state === 'done'" type="button" class="link" @click="uploads.forget(one)">fine</button>
        <button v-else-if="one.state !== 'comparing'" type="button" class="link" @click="uploads.giveUp(one)">
          give up
        </button>
      </span>
    </li>
    <li v-for="one in uploads.left" :key="one.id">
      <span class="name cut" :title="one.name">{{ one.name }}</span>
      <progress
        :value="one.size_bytes ? one.received_bytes / one.size_bytes : 1"
        max="1"
        :aria-label="`Received of ${one.name}`"
      />
      <span class="mono figures">{{ bytes(one.received_bytes) }} of {{ bytes(one.size_bytes) }}</span>
      <span class="state">left half-way; drop the same file again and it goes on from here</span>
      <span class="acts"><button type="button" class="link" @click="uploads.giveUpLeft(one)">give up</button></span>
    </li>
  </ul>
</template>

<style scoped>
.arrivals {
  margin: 12px 0 0;
  padding: 4px 16px;
  list-style: none;
}

li {
  display: grid;
  grid-template-columns: minmax(120px, 240px) 170px 170px 1fr auto;
  align-items: center;
  gap: 14px;
  padding: 5px 0;
}

li + li {
  border-top: 1px solid var(--line);
}

.name {
  font-weight: 700;
}

.acts {
  display: flex;
  gap: 12px;
}
</style>
