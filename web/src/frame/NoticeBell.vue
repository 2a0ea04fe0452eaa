<script setup lang="ts">
import { IconBell } from '@tabler/icons-vue'
import { useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'
import { api, counts, given, requestKey } from '@/api/client'
import type { Notices } from '@/api/types'
import { moment } from '@/fields/zone'
import { useSession } from '@/session'
import { say } from '@/surface/sentence'
import FloatPanel from './FloatPanel.vue'

/** What the person was told. It is asked for every minute while the page is looked at. */
const session = useSession()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const told = ref<Notices | null>(null)
/** Those up to here were read when the list was opened. */
const readBefore = ref(0)
const looked = useDocumentVisibility()
const label = computed(() => (told.value?.unread ? `Notices, ${told.value.unread} of them new` : 'Notices'))

async function load(): Promise<void> {
  try {
    told.value = await given(api.GET('/use/notices'))
  } catch {
    return // it is asked again in a minute
  }
}
const everyMinute = useIntervalFn(load, 60_000)
watch(
  looked,
  (now) => {
    if (now !== 'visible') return everyMinute.pause()
    void load()
    everyMinute.resume()
  },
  { immediate: true },
)

async function open(event: Event): Promise<void> {
  panel.value?.toggle(event)
  const all = told.value?.notices ?? []
  readBefore.value = all.find((n) => n.read)?.id ?? 0
  if (!told.value?.unread || session.as.id) return
  told.value = await given(
    api.POST('/use/notices/read', { body: { upto: all[0]?.id ?? 0 }, ...counts(requestKey()) }),
  )
}
</script>

<template>
  <Button text size="small" :aria-label="label" :title="label" aria-haspopup="dialog" @click="open">
    <IconBell :size="18" /><span v-if="told?.unread" class="new">{{ told.unread }}</span>
  </Button>
  <FloatPanel ref="panel" aria-label="Notices">
    <p v-if="!told?.notices.length" class="muted none">Nobody has told you anything.</p>
    <ul v-else>
      <li v-for="n in told.notices" :key="n.id" :class="{ unread: n.id > readBefore }">
        <component
          :is="n.object ? 'RouterLink' : 'span'"
          :to="n.object ? `/use/record/${n.object}/${n.record}` : undefined"
          class="said"
          @click="n.object && panel?.hide()"
          >{{ say(n.text) }}</component
        >
        <span class="muted">{{ moment(n.at) }}</span>
      </li>
    </ul>
  </FloatPanel>
</template>

<style scoped>
.new {
  margin-left: 0.25rem;
  font-weight: 700;
  font-variant-numeric: tabular-nums;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  width: min(24rem, 80vw);
  max-height: 60vh;
  overflow: auto;
}
li {
  display: grid;
  gap: 0.15rem;
  padding: 0.5rem 0.2rem 0.5rem 0.6rem;
  border-left: 3px solid transparent;
  border-bottom: 1px solid var(--line);
}
li:last-child {
  border-bottom: 0;
}
.unread {
  border-left-color: var(--accent);
}
.said {
  overflow-wrap: anywhere;
  white-space: pre-line;
}
.none {
  margin: 0;
}
</style>
