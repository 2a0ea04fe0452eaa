<script setup lang="ts">
import { IconCheck, IconX } from '@tabler/icons-vue'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { ExampleRun, KeptExample, NewExample } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { keyFrom } from './build'
import DifferenceList from './DifferenceList.vue'
import { drop, put } from './document'
import type { Rehearsal } from './rehearsal'
import { useSheet } from './sheet/context'
import TextSlot from './sheet/TextSlot.vue'

/** Rehearsals that are kept with what is expected of them, and run again after any change. */
const props = defineProps<{ walkthrough: string; rehearsal: Rehearsal; blocked: boolean }>()
const sheet = useSheet()
const examples = computed(() => (sheet.body() as { examples?: KeptExample[] } | null)?.examples ?? [])
const results = ref<ExampleRun[]>([])
const running = useDoing()
const keeping = useDoing()
const name = ref('')
const said = ref('')

const resultOf = (key: string) => results.value.find((r) => r.key === key)
const holds = (r: ExampleRun) => !r.failed && !r.differences.length
const summary = computed(() => {
  if (!results.value.length) return ''
  const good = results.value.filter(holds).length
  const ms = results.value.reduce((sum, r) => sum + r.micros, 0) / 1000
  const time = ms < 1000 ? `${Math.round(ms)} ms` : `${(ms / 1000).toFixed(1)} s`
  return `${good} of ${results.value.length} as expected, in ${time}`
})

const run = () =>
  running.attempt(async () => {
    const query = { walkthrough: props.walkthrough }
    results.value = await given(api.GET('/build/examples', { params: { query } }))
  })

// What was found counts for the walkthrough as it was.
watch(
  () => JSON.stringify((sheet.body() as { steps?: unknown } | null)?.steps),
  () => (results.value = []),
)

function keptWords(made: NewExample): string {
  const files = made.files
    ? `Kept, with its ${made.files === 1 ? 'file' : `${made.files} files`}, which other servers do not have.`
    : 'Kept.'
  if (!made.pinned) return files
  return `${files} ${made.pinned === 1 ? '1 record is' : `${made.pinned} records are`} known by key alone, for others are called the same: it holds for the records of this trial.`
}

const keep = () =>
  keeping.attempt(async () => {
    const words = name.value.trim()
    if (!words) return
    const made = await props.rehearsal.example()
    const key = keyFrom(
      words,
      examples.value.map((e) => e.key),
    )
    const example = { ...made.example, key, name: words }
    await sheet.edit(examples.value.length ? put('/examples/-', example) : put('/examples', [example]))
    name.value = ''
    said.value = keptWords(made)
  })

function change(i: number, some: Partial<KeptExample>): void {
  const next = { ...examples.value[i], ...some }
  void sheet.edit(put(`/examples/${i}`, next))
}

/** What came of it is what is expected from now on; what nobody expected before is not. */
function takeOver(i: number, now: KeptExample['expect']): void {
  const before = examples.value[i].expect
  const counts = now.counts?.filter((c) => before.counts?.some((b) => b.step === c.step))
  change(i, { expect: { ...now, message: before.message ? now.message : undefined, counts } })
  const result = resultOf(examples.value[i].key)
  if (result) result.differences = []
}

function remove(i: number): void {
  void sheet.edit(examples.value.length > 1 ? drop(`/examples/${i}`) : drop('/examples'))
}
</script>

<template>
  <section class="kept">
    <div class="row">
      <strong>Kept rehearsals</strong>
      <span class="muted" aria-live="polite">{{ summary }}</span>
      <span class="space" />
      <Button
        v-if="examples.length"
        text
        size="small"
        label="Run all"
        :loading="running.busy.value"
        :disabled="blocked"
        @click="run"
      />
    </div>
    <p v-if="running.failed.value || keeping.failed.value" class="bad" role="alert">
      {{ running.failed.value || keeping.failed.value }}
    </p>
    <ul v-if="examples.length">
      <li v-for="(e, i) in examples" :key="e.key">
        <div class="row">
          <template v-for="r in [resultOf(e.key)]" :key="r?.key">
            <IconCheck v-if="r && holds(r)" :size="16" class="good" aria-label="as expected" />
            <IconX v-else-if="r" :size="16" class="bad" aria-label="otherwise than expected" />
          </template>
          <TextSlot
            :model-value="e.name"
            :label="'Name of ' + e.name"
            @update:model-value="change(i, { name: $event })"
          />
          <button type="button" class="plain link" @click="rehearsal.replay(e.given ?? [], e.taken ?? {})">
            show it
          </button>
          <RemoveButton :label="'Keep ' + e.name + ' no longer'" @press="remove(i)" />
        </div>
        <DifferenceList
          v-if="resultOf(e.key) && !holds(resultOf(e.key)!)"
          :run="resultOf(e.key)!"
          @right="takeOver(i, resultOf(e.key)!.now)"
        />
      </li>
    </ul>
    <form v-if="!blocked" class="row" @submit.prevent="keep">
      <InputText
        v-model="name"
        size="small"
        placeholder="keep what was rehearsed, as …"
        aria-label="Keep what was rehearsed, as"
        class="name"
      />
      <Button
        type="submit"
        outlined
        size="small"
        label="Keep it"
        :disabled="!name.trim()"
        :loading="keeping.busy.value"
      />
    </form>
    <p v-if="said" class="muted" role="status">{{ said }}</p>
  </section>
</template>

<style scoped>
.kept {
  margin-top: 1.2rem;
  border-top: 1px solid var(--line);
  padding-top: 0.8rem;
}
.space {
  flex: 1;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0.4rem 0;
}
.name {
  flex: 1;
}
</style>
