<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import { titleOf } from '@/api/client'
import { useSession } from '@/session'
import { mayLeave, unsaved } from '@/surface/unsaved'
import FloatPanel from './FloatPanel.vue'

/** Who is signed in, and in which time zone they enter and see times. */
const session = useSession()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const failed = ref('')
const ofTheApp = 'app'
const zones = computed(() => [
  { key: ofTheApp, label: `as everybody here: ${session.me?.app_zone}` },
  ...Intl.supportedValuesOf('timeZone').map((z) => ({ key: z, label: z.replaceAll('_', ' ') })),
])
const zone = computed(() => (session.me?.zone === session.me?.app_zone ? ofTheApp : session.me?.zone))

/** Months and days begin elsewhere then, so everything is asked for anew. */
async function keep(next: string): Promise<void> {
  failed.value = ''
  if (!(await mayLeave(unsaved()))) return
  try {
    await session.keepTimeIn(next === ofTheApp ? '' : next)
    location.reload()
  } catch (error) {
    failed.value = titleOf(error)
  }
}
</script>

<template>
  <button
    type="button"
    class="plain who"
    aria-haspopup="dialog"
    :title="'Times are those of ' + session.me?.zone"
    @click="panel?.toggle($event)"
  >
    {{ session.me?.name }}
  </button>
  <FloatPanel ref="panel" aria-label="Your times">
    <label class="times"
      >Times are entered and shown
      <Select
        :model-value="zone"
        :options="zones"
        option-label="label"
        option-value="key"
        filter
        size="small"
        aria-label="Your time zone"
        :virtual-scroller-options="{ itemSize: 34 }"
        @update:model-value="keep"
    /></label>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
  </FloatPanel>
</template>

<style scoped>
.who {
  color: var(--muted);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.times {
  display: grid;
  gap: 0.3rem;
  width: 22rem;
}
@media (max-width: 600px) {
  .who {
    max-width: 6rem;
  }
}
</style>
