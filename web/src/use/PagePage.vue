<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { useToast } from 'primevue/usetoast'
import { computed, defineAsyncComponent, ref, toRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, requestKey, titleOf } from '@/api/client'
import type { Effect, Run } from '@/api/types'
import { usePage } from '@/surface/page'
import SurfaceView from '@/surface/SurfaceView.vue'

const RunPage = defineAsyncComponent(() => import('./RunPage.vue'))

const props = defineProps<{ name: string }>()
const router = useRouter()
const toast = useToast()
const page = usePage('/use', toRef(props, 'name'), effect)
const surface = ref<InstanceType<typeof SurfaceView> | null>(null)
const inside = ref<Run | null>(null)
watch(() => props.name, page.open, { immediate: true })

async function effect(e: Effect): Promise<void> {
  if (e.kind === 'record') {
    await router.push(`/use/record/${e.object}/${e.record}`)
    return
  }
  try {
    const run = await api.post<Run>(
      '/use/runs',
      { walkthrough: e.walkthrough, taken: e.hand ?? {} },
      requestKey(),
    )
    if (e.dialog) inside.value = run
    else await router.push('/use/run/' + run.id)
  } catch (error) {
    toast.add({ severity: 'warn', summary: 'Not opened', detail: titleOf(error), life: 8000 })
  }
}

/** A table that has the page to itself takes the height there is. */
const tables = computed(
  () =>
    (page.view.value?.bands ?? []).flatMap((b) => b.columns.flatMap((c) => c.parts)).filter((p) => p.table)
      .length,
)

/** A walkthrough in a dialog is over: what it changed shows. */
function over(): void {
  inside.value = null
  void page.again()
}
</script>

<template>
  <main id="main" class="page" :class="{ single: tables === 1 }">
    <p v-if="page.failed.value" class="bad" role="alert">
      {{ page.failed.value }}
      <button type="button" class="plain link" @click="page.again()">Try again</button>
    </p>
    <template v-if="page.view.value">
      <h1>{{ page.view.value.label }}</h1>
      <p v-if="page.view.value.note" class="muted">{{ page.view.value.note }}</p>
      <SurfaceView
        ref="surface"
        :screen="name"
        :bands="page.view.value.bands"
        :source="page.source"
        :problems="{}"
        @changed="(part) => page.changed(part, surface!.answers())"
        @looked="page.looked"
        @written="page.again()"
      />
    </template>
    <Dialog
      :visible="!!inside"
      modal
      :header="inside?.label"
      :style="{ width: '46rem' }"
      @update:visible="over"
    >
      <RunPage v-if="inside" :id="inside.id" dialog @done="over" />
    </Dialog>
  </main>
</template>

<style scoped>
.page {
  padding: 1rem 1.4rem 2rem;
}
.single {
  --table-height: max(24rem, calc(100vh - 17rem));
}
.page > p {
  margin: 0.2rem 0 0.9rem;
}
</style>
