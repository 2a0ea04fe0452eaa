<script setup lang="ts">
import { computed } from 'vue'
import CopyButton from '@/frame/CopyButton.vue'
import { useSession } from '@/session'
import type { PartProps } from './parts'

/** An address as it stands on a letter, to be copied, and looked up on the map that is set for the app. */
defineOptions({ inheritAttrs: false })
const props = defineProps<PartProps>()
const session = useSession()
const address = computed(() => props.part.place?.address)
const lines = computed(() => {
  const a = address.value
  if (!a) return []
  return [
    ...(a.lines ?? '').split('\n'),
    [a.postcode, a.town].filter(Boolean).join(' '),
    a.country ?? '',
  ].filter(Boolean)
})
const map = computed(() =>
  session.me?.map?.replaceAll('{address}', encodeURIComponent(lines.value.join(', '))),
)
</script>

<template>
  <section>
    <h2 v-if="part.label">{{ part.label }}</h2>
    <p v-if="!address" class="muted">
      {{ part.place?.chosen ? 'There is no address.' : 'Nothing is chosen yet.' }}
    </p>
    <template v-else>
      <address>
        <span v-for="(line, i) in lines" :key="i">{{ line }}</span>
      </address>
      <p class="does">
        <a v-if="map" :href="map" target="_blank" rel="noopener">Show on the map</a>
        <CopyButton :text="lines.join('\n')" what="the address" />
      </p>
    </template>
  </section>
</template>

<style scoped>
address {
  display: flex;
  flex-direction: column;
  margin-top: 0.4rem;
  font-style: normal;
}
.does {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  margin: 0.3rem 0 0;
}
</style>
