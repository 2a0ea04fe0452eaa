<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import Message from 'primevue/message'
import { provideFiles } from '@/fields/files'

import { findIn } from '@/api/options'
import type { ShippedView, Take } from '@/api/types'
import { say } from '@/surface/sentence'
import ScreenView from '@/surface/ScreenView.vue'
import SeveralInput from '@/fields/SeveralInput.vue'
import ValueInput from '@/fields/ValueInput.vue'
import type { Rehearsal } from './rehearsal'
import KnownPicker from './conditions/KnownPicker.vue'
import KeptRehearsals from './KeptRehearsals.vue'
import TraceList from './TraceList.vue'

const props = defineProps<{
  rehearsal: Rehearsal
  takes: Take[]
  as: number
  label: string
  walkthrough: string
  blocked: boolean
}>()
const emit = defineEmits<{ ship: [part: string, view: ShippedView] }>()
const r = props.rehearsal
/** The known values where it has come to, by name. */
const known = computed(() => Object.entries(r.samples.value).sort(([a], [b]) => a.localeCompare(b)))
const find = (object: string | undefined, text: string) => findIn(() => object)(text)
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
      <label class="row muted on">
        on
        <ValueInput
          id="rehearsed-on"
          :model-value="r.on.value || null"
          type="date"
          label="The day on whose clock it runs"
          @update:model-value="r.at(($event as string | null) ?? '')"
        />
      </label>
      <Button text size="small" label="From the start" @click="r.restart()" />
    </div>
    <p v-if="r.held.value" class="care" role="status">
      It stops here: <code>{{ r.stopWhen.value }}</code> holds. What is given now goes past it.
    </p>
    <details class="stop" :open="!!r.stopWhen.value">
      <summary class="muted">Stop under a condition</summary>
      <KnownPicker
        :model-value="r.stopWhen.value"
        :place="r.place.value"
        kind="yesno"
        label="The rehearsal stops when"
        placeholder="such as size(found) == 0"
        @update:model-value="r.stopAt($event)"
      />
    </details>
    <div v-for="t in takes" :key="t.key" class="row taken">
      <label :for="'taken-' + t.key">{{ t.label }}</label>
      <SeveralInput
        v-if="t.several"
        :id="'taken-' + t.key"
        :model-value="r.taken.value[t.key]"
        :type="t.type"
        :find="(text: string) => find(t.object, text)"
        @update:model-value="r.hand(t.key, $event)"
      />
      <ValueInput
        v-else
        :id="'taken-' + t.key"
        :model-value="r.taken.value[t.key]"
        :type="t.type"
        :find="(text: string) => find(t.object, text)"
        @update:model-value="r.hand(t.key, $event)"
      />
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
      ships
      within
      :follow="r.follow"
      @next="r.next"
      @back="r.back"
      @later="r.back"
      @cancel="r.restart()"
      @close="r.restart()"
      @ship="(part, view) => emit('ship', part, view)"
    />
    <ul v-if="r.view.value?.effects?.length && !blocked" class="muted">
      <li v-for="(e, i) in r.view.value.effects" :key="i">
        {{ e.kind === 'say' ? `It says “${say(e.message)}”` : 'In Use a record opens.' }}
      </li>
    </ul>
    <div v-if="r.view.value?.closed && !r.kept.value && !blocked" class="keep">
      <Button outlined size="small" label="Do it once more and keep the records" @click="r.keep()" />
    </div>
    <details v-if="known.length" class="known">
      <summary>What is known here</summary>
      <dl>
        <template v-for="[path, sample] in known" :key="path"
          ><dt>{{ path }}</dt>
          <dd>{{ sample }}</dd></template
        >
      </dl>
    </details>
    <KeptRehearsals :walkthrough="walkthrough" :rehearsal="r" :blocked="blocked" />
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
.on {
  flex-wrap: nowrap;
}
.on :deep(input) {
  width: 7.5rem;
  padding: 0.2rem 0.4rem;
  font-size: inherit;
}
.taken {
  margin-bottom: 0.5rem;
}
.known {
  margin-top: 0.9rem;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0.1rem 0.8rem;
  margin: 0.4rem 0;
  font-size: 0.9rem;
}
dt {
  color: var(--muted);
  overflow-wrap: anywhere;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.stop {
  margin-bottom: 0.6rem;
}
.space {
  flex: 1;
}
.keep {
  margin-top: 0.8rem;
}
</style>
