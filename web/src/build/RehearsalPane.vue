<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { provideFiles } from '@/surface/files'
import ScreenView from '@/surface/ScreenView.vue'
import type { Rehearsal } from './rehearsal'
import TraceList from './TraceList.vue'

const props = defineProps<{ rehearsal: Rehearsal; as: number; label: string; blocked: boolean }>()
const r = props.rehearsal
provideFiles({ base: '/build/spaces/trial', as: () => props.as })
</script>

<template>
  <aside class="pane" aria-label="Rehearsal">
    <div class="row bar">
      <strong>Rehearsal</strong>
      <span class="muted">{{
        r.kept.value ? 'the records were kept, in trial' : 'records are put back'
      }}</span>
      <span class="space" />
      <Button text size="small" label="From the start" @click="r.restart()" />
    </div>
    <Message v-if="blocked" severity="warn" :closable="false">
      The sheet has findings that stop it from running. Mend those marked “Stop”, and the rehearsal goes on
      here.
    </Message>
    <Message v-else-if="r.failed.value" severity="error" :closable="false" role="alert">{{
      r.failed.value
    }}</Message>
    <ScreenView
      v-if="r.view.value && !blocked"
      :label="label"
      :view="r.view.value"
      :source="r.source"
      :problems="r.problems.value"
      :busy="r.busy.value"
      @next="r.next"
      @back="r.back()"
      @close="r.restart()"
    />
    <div v-if="r.view.value?.closed && !r.kept.value && !blocked" class="keep">
      <Button outlined size="small" label="Do it once more and keep the records" @click="r.keep()" />
    </div>
    <TraceList v-if="r.trace.value.length" :trace="r.trace.value" />
  </aside>
</template>

<style scoped>
.pane {
  border-left: 1px solid var(--line);
  padding: 0.8rem 1rem 2rem;
  overflow: auto;
  background: var(--panel);
  font-size: 0.95rem;
}
.bar {
  border-bottom: 1px solid var(--line);
  margin-bottom: 0.8rem;
}
.space {
  flex: 1;
}
.keep {
  margin-top: 0.8rem;
}
</style>
