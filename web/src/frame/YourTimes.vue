<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import { useDoing } from '@/api/doing'
import { useSession } from '@/session'
import { longList } from '@/fields/longlist'
import { mayLeave, unsaved } from '@/surface/unsaved'
import OwnAccount from '@/signin/OwnAccount.vue'
import FloatPanel from './FloatPanel.vue'

/** Who is signed in: in which time zone they enter and see times, their password and sessions. */
const session = useSession()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const { failed, attempt } = useDoing()
const account = ref(false)
const ofTheApp = 'app'
const zones = computed(() => [
  { key: ofTheApp, label: `as everybody here: ${session.me?.app_zone}` },
  ...Intl.supportedValuesOf('timeZone').map((z) => ({ key: z, label: z.replaceAll('_', ' ') })),
])
const zone = computed(() => (session.me?.zone === session.me?.app_zone ? ofTheApp : session.me?.zone))

/** Months and days begin elsewhere then, so everything is asked for anew. */
async function keep(next: string): Promise<void> {
  if (!(await mayLeave(unsaved()))) return
  await attempt(async () => {
    await session.keepTimeIn(next === ofTheApp ? '' : next)
    location.reload()
  })
}

function openAccount(): void {
  panel.value?.hide()
  account.value = true
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
  <FloatPanel ref="panel" aria-label="You">
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
        :virtual-scroller-options="longList(zones)"
        @update:model-value="keep"
    /></label>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <p class="account">
      <button type="button" class="plain link" @click="openAccount">Password and sessions …</button>
    </p>
  </FloatPanel>
  <OwnAccount v-model="account" />
</template>

<style scoped>
.who {
  color: var(--muted);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.account {
  margin: 0.8rem 0 0;
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
