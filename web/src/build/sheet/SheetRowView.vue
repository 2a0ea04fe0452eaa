<script setup lang="ts">
import { computed } from 'vue'
import type { ActKind, Entry } from '@/api/types'
import { acts } from '../act/acts'
import { workLines, workWords } from '../act/words'
import { typeAt } from '../act/typeat'
import { useBuild } from '../build'
import { screenLines } from '../words'
import { useSheet } from './context'
import type { SheetRow } from './rows'
import { useKnown } from '../conditions/context'

const props = defineProps<{
  row: SheetRow
  entry?: Entry
  searched?: Map<string, Entry>
  open: boolean
  here: boolean
}>()
const build = useBuild()
const sheet = useSheet()
const known = useKnown()
const step = computed(() => props.row.step)
const person = computed(() => step.value?.kind === 'screen' || step.value?.kind === 'finish')
const names = computed(() => known.names(step.value?.key ?? ''))
const lines = computed(() => {
  const s = step.value
  if (!s) return []
  if (person.value) return screenLines(s)
  return workLines(build, names.value, s)
})
const findings = computed(() => sheet.findings.value.filter((f) => f.step === step.value?.key))
const records = computed(() => {
  const e = props.entry
  if (!e || !step.value) return ''
  if (step.value.search) return `${e.found} of ${e.looked}`
  if (acts[step.value.kind as ActKind]?.touches === 'writes') return `${e.written} written`
  if (step.value.branch || step.value.repeat) return e.note ?? ''
  return ''
})
/** What is searched for on a screen, with what was found. */
const searches = computed(() =>
  (step.value?.screen?.searches ?? []).map((s) => {
    const found = props.searched?.get(s.label || s.key)
    return {
      key: s.key,
      figures: found && `${found.found} of ${found.looked}`,
      reads: build.object(s.search.object)?.plural.toLowerCase() ?? s.search.object,
    }
  }),
)
const kind = computed(() => acts[step.value?.kind as ActKind]?.touches ?? '')
const object = computed(() => {
  const s = step.value
  const of = s?.change?.of ?? s?.remove?.of
  const theirs = s?.change?.their ?? s?.remove?.their
  const key =
    s?.search?.object ?? s?.add?.object ?? theirs?.object ?? (of && typeAt(build, names.value, of)?.object)
  return build.object(key)?.plural.toLowerCase()
})
</script>

<template>
  <div v-if="row.way" class="way" :style="{ '--depth': row.depth }">
    <span class="bar" aria-hidden="true" />
    <strong>{{ row.way.title }}</strong>
    <span v-if="row.way.when" class="muted">when {{ row.way.when }}</span>
    <span v-if="row.way.empty" class="muted">— goes on below</span>
  </div>
  <div v-else-if="step" class="line" :class="{ open, here }" :style="{ '--depth': row.depth }">
    <div class="lane person">
      <template v-if="person">
        <div class="head">
          <span class="number">{{ row.number }}</span> {{ step.title || step.key }}
          <span v-if="step.kind === 'finish'" class="muted"> · finish</span>
        </div>
        <div v-for="(l, i) in lines" :key="i" class="sub">{{ l }}</div>
      </template>
    </div>
    <div class="lane work">
      <template v-if="!person">
        <div class="head">
          <span class="number">{{ row.number }}</span> {{ workWords(build, names, step) }}
        </div>
        <div v-for="(l, i) in lines" :key="i" class="sub">{{ l }}</div>
      </template>
    </div>
    <div class="lane records">
      <div v-if="records">{{ records }}</div>
      <template v-for="s in searches" :key="s.key">
        <div v-if="s.figures">{{ s.figures }}</div>
        <div class="sub">reads {{ s.reads }}</div>
      </template>
      <div v-if="kind" class="sub">{{ kind }} {{ object }}</div>
      <div v-if="findings.length" :class="findings.some((f) => f.severity === 'stop') ? 'bad' : 'care'">
        ! {{ findings.length }} {{ findings.length === 1 ? 'finding' : 'findings' }}
      </div>
    </div>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr) 8.6rem;
  cursor: pointer;
}
.lane {
  padding: 0.3rem 0.8rem 0.35rem;
  border-left: 1px solid var(--line);
  min-width: 0;
  overflow-wrap: anywhere;
}
.lane:first-child {
  border-left: 0;
  padding-left: calc(0.8rem + var(--depth) * 1.2rem);
}
.work .head {
  padding-left: calc(var(--depth) * 0.6rem);
}
.head {
  font-weight: 600;
}
.number {
  color: var(--muted);
  font-weight: 400;
  font-variant-numeric: tabular-nums;
  margin-right: 0.15rem;
}
.sub {
  color: var(--muted);
  font-size: 0.9rem;
  padding-left: 1rem;
}
.records {
  font-variant-numeric: tabular-nums;
}
.records .sub {
  padding-left: 0;
}
.here .person {
  background: var(--tint);
}
.way {
  display: flex;
  gap: 0.6rem;
  align-items: baseline;
  padding: 0.2rem 0.8rem 0.2rem calc(var(--depth) * 1.2rem);
}
.bar {
  width: 3px;
  align-self: stretch;
  background: var(--accent);
  opacity: 0.5;
}
</style>
