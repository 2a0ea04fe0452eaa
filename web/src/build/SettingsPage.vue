<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed, onMounted, ref } from 'vue'
import type { App } from '@/api/types'
import { useBuild } from './build'
import { drop, put, useDocument } from './document'
import MenuGroups from './MenuGroups.vue'
import ReadFailed from './ReadFailed.vue'
import { provideSheet } from './sheet/context'
import FindingNote from './sheet/FindingNote.vue'
import TextSlot from './sheet/TextSlot.vue'
import { useUndoKeys } from './undo'
import SavedState from './SavedState.vue'

/** What holds for the app as a whole. */
const props = defineProps<{ name: string }>()
const build = useBuild()
const doc = useDocument<App>('app', () => props.name)
const app = doc.body
const findings = computed(() => doc.view.value?.findings ?? [])
provideSheet({
  edit: doc.edit,
  rename: doc.rename,
  removable: doc.removable,
  body: () => doc.body.value,
  findings,
  steps: ref([]),
})
useUndoKeys(doc)
onMounted(doc.load)

const rated = computed(() => build.object(app.value?.rates?.object))
const fields = (type: string) => (rated.value?.fields ?? []).filter((f) => f.type === type)

/** The fields of a table of rates are guessed by their types. */
function setRates(key: string | null): void {
  const of = build.object(key ?? undefined)
  if (!of) {
    void doc.edit(drop('/rates'))
    return
  }
  const first = (type: string) => of.fields.find((f) => f.type === type)?.key ?? ''
  void doc.edit(
    put('/rates', { object: of.key, currency: first('text'), day: first('date'), rate: first('decimal') }),
  )
}
const mapExample = 'https://maps.example/?q={address}'
const slots = [
  { key: 'currency', label: 'where the currency is', type: 'text' },
  { key: 'day', label: 'the day it holds from', type: 'date' },
  { key: 'rate', label: 'and the rate', type: 'decimal' },
] as const
</script>

<template>
  <main v-if="app" class="settings">
    <header>
      <h1>{{ app.label }}</h1>
      <SavedState :doc="doc" />
      <span class="space" />
      <Button text size="small" label="Undo" title="Ctrl Z" @click="doc.undo()" />
      <Button text size="small" label="Redo" title="Ctrl Shift Z" @click="doc.redo()" />
    </header>
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
    <div class="row">
      It is called
      <TextSlot
        :model-value="app.label"
        label="Name of the app"
        @update:model-value="doc.edit(put('/label', $event))"
      />
      and keeps time as in
      <TextSlot
        :model-value="app.zone"
        label="Time zone"
        placeholder="Europe/Dublin"
        @update:model-value="doc.edit(put('/zone', $event))"
      />
    </div>
    <div class="row">
      People outside the company belong to a
      <Select
        :model-value="app.organisation ?? null"
        :options="build.own"
        option-label="label"
        option-value="key"
        size="small"
        show-clear
        placeholder="nobody does"
        aria-label="What people outside the company belong to"
        @update:model-value="doc.edit($event ? put('/organisation', $event) : drop('/organisation'))"
      />
    </div>
    <div class="row">
      Addresses are looked up at
      <TextSlot
        :model-value="app.map ?? ''"
        label="Map of addresses"
        :placeholder="mapExample"
        class="map"
        @update:model-value="doc.edit($event ? put('/map', $event) : drop('/map'))"
      />
    </div>
    <h2>Menu</h2>
    <MenuGroups :groups="app.menu ?? []" :edit="doc.edit" />
    <h2>Money</h2>
    <p>The house reckons in {{ app.currency }}.</p>
    <div class="row">
      Other currencies are converted by
      <Select
        :model-value="app.rates?.object ?? null"
        :options="build.own"
        option-label="plural"
        option-value="key"
        size="small"
        show-clear
        placeholder="nothing: they stay apart"
        aria-label="What currencies are converted by"
        @update:model-value="setRates"
      />
      <template v-if="app.rates">
        <template v-for="s in slots" :key="s.key">
          {{ s.label }}
          <Select
            :model-value="app.rates[s.key]"
            :options="fields(s.type)"
            option-label="label"
            option-value="key"
            size="small"
            :aria-label="'Rates: ' + s.label"
            @update:model-value="doc.edit(put('/rates/' + s.key, $event))"
          />
        </template>
      </template>
    </div>
    <p v-if="app.rates" class="muted">
      A total takes the latest rate up to the day asked for. What has no rate is named and stands by itself.
    </p>
  </main>
  <ReadFailed v-else-if="doc.failed.value" :words="doc.failed.value" @again="doc.load()" />
</template>

<style scoped>
.map {
  width: 22rem;
}
.settings {
  padding: 0 0.9rem 2rem;
}
header {
  display: flex;
  align-items: center;
  gap: 0.7rem;
  margin: 0 -0.9rem 1rem;
  padding: 0.5rem 0.8rem;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 1.1rem;
  margin: 0;
}
h2 {
  margin: 1.5rem 0 0.5rem;
}
.space {
  flex: 1;
}
</style>
