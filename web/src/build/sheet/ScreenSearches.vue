<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Screen } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { parts } from '@/surface/parts'
import { keyFrom, useBuild } from '../build'
import { drop, put } from '../document'
import { useSheet } from './context'
import KeySlot from './KeySlot.vue'
import SearchEditor from './SearchEditor.vue'
import TextSlot from './TextSlot.vue'

/** The searches that are made on a screen, with what is given there. The pointer is that of the screen. */
const props = defineProps<{ screen: Screen; step: string; pointer: string }>()
const build = useBuild()
const sheet = useSheet()
const searches = computed(() => props.screen.searches ?? [])
const at = (i: number) => `${props.pointer}/searches/${i}`

/** A search comes with a table of what it finds. */
function add(objectKey: string): void {
  const object = build.object(objectKey)!
  const taken = [
    ...searches.value.map((s) => s.key),
    ...props.screen.bands.flatMap((b) => b.columns.flatMap((c) => c.parts.map((p) => p.key))),
  ]
  const key = keyFrom(object.plural, taken)
  const found = keyFrom(key + '_found', [...taken, key])
  const search = {
    key: found,
    label: object.plural + ' found',
    search: { object: objectKey, where: { all: [] } },
  }
  const part = parts.table.fresh({ key: () => key, of: { path: `${props.step}.${found}`, object } })
  const first = searches.value.length ? [] : [put(props.pointer + '/searches', [])]
  const band = { columns: [{ parts: [part] }] }
  void sheet.edit(...first, put(props.pointer + '/searches/-', search), put(props.pointer + '/bands/-', band))
}

async function remove(i: number): Promise<void> {
  const { label, key } = searches.value[i]
  if (await sheet.removable(at(i), `the search “${label || key}”`)) void sheet.edit(drop(at(i)))
}

function onDemand(i: number, yes: boolean): void {
  void sheet.edit(yes ? put(at(i) + '/on_demand', true) : drop(at(i) + '/on_demand'))
}
</script>

<template>
  <details :open="searches.length > 0">
    <summary>What is searched for on it</summary>
    <div v-for="(s, i) in searches" :key="s.key" class="search">
      <div class="row">
        <TextSlot
          :model-value="s.label"
          label="What the search is called"
          placeholder="what is found"
          class="called"
          @update:model-value="sheet.edit(put(at(i) + '/label', $event))"
        />
        <KeySlot :pointer="at(i)" :name="s.key" :within="step" label="Key of the search" />
        <label>
          <input
            type="checkbox"
            :checked="s.on_demand ?? false"
            @change="onDemand(i, ($event.target as HTMLInputElement).checked)"
          />
          on demand
        </label>
        <RemoveButton label="Do not search for this" @press="remove(i)" />
      </div>
      <SearchEditor :search="s.search" :place="step + '!'" :pointer="at(i) + '/search'" />
    </div>
    <div class="row">
      Show
      <Select
        :model-value="''"
        :options="build.contents?.objects ?? []"
        option-label="plural"
        option-value="key"
        filter
        size="small"
        placeholder="records"
        aria-label="Records to search for on this screen"
        @update:model-value="add"
      />
      that are searched for with what is given on this screen
    </div>
  </details>
</template>

<style scoped>
.called {
  width: 10rem;
}
.search {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
  margin: 0.4rem 0 0.8rem;
}
</style>
