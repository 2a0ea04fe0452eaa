<script setup lang="ts">
import AutoComplete, { type AutoCompleteCompleteEvent } from 'primevue/autocomplete'
import { computed, onMounted, ref, watch } from 'vue'
import type { ActKind, Name, Step } from '@/api/types'
import { acts } from '../act/acts'
import { capital } from '../keys'
import { beginning, keyFrom, useBuild } from '../build'
import { compounds, type Made } from './compounds'

/** Makes steps from a verb: "screen", "search customers", "add visit", "find buildings" … */
const props = defineProps<{ taken: string[]; walk: string; known: Name[] }>()
const emit = defineEmits<{ make: [steps: Step[]]; cancel: [] }>()
const build = useBuild()
const text = ref<string | Made>('')
const found = ref<Made[]>([])
const box = ref<{ $el: HTMLElement } | null>(null)

function about(kind: ActKind): string {
  if (acts[kind].touches) return 'write what is stored'
  return acts[kind].gives ? 'make a value known' : 'something for the person'
}

const verbs = computed<Made[]>(() => {
  const objects = build.own
  const key = (words: string) => keyFrom(words, [...props.taken, 'person', 'today', 'now'])
  return [
    {
      label: 'Screen',
      what: 'the person sees and enters something',
      make: (words: string): Step[] => [
        {
          key: key(words || 'screen'),
          kind: 'screen',
          title: words || 'New screen',
          screen: { bands: [] },
        },
      ],
    },
    ...objects.map((o) => ({
      label: 'Search ' + o.plural.toLowerCase(),
      what: 'find records',
      make: (): Step[] => [
        {
          key: key(o.plural),
          kind: 'search',
          title: o.plural,
          search: { object: o.key, where: { all: [] }, order: [{ path: o.label_field }] },
        },
      ],
    })),
    ...objects.map((o) => ({
      label: 'Add ' + o.label.toLowerCase(),
      what: 'write new records',
      make: (): Step[] => [
        {
          key: key('new ' + o.label),
          kind: 'add',
          title: 'Add the ' + o.label.toLowerCase(),
          add: { object: o.key, values: [] },
        },
      ],
    })),
    ...(build.contents?.documents ?? [])
      .filter((d) => d.kind === 'walkthrough' && d.key !== props.walk)
      .map((d) => ({
        label: 'Run ' + d.label,
        what: 'go through another walkthrough',
        make: (): Step[] => [{ key: key(d.label), kind: 'run', title: d.label, run: { walkthrough: d.key } }],
      })),
    ...(build.contents?.acts ?? [])
      .filter((a) => a.in_steps && !['search', 'add', 'run'].includes(a.kind))
      .map((a) => ({
        label: capital(a.words),
        what: about(a.kind as ActKind),
        make: (words: string): Step[] => [
          {
            key: key(words || a.words),
            kind: a.kind,
            title: words || capital(a.words),
            ...acts[a.kind as ActKind].fresh(),
          },
        ],
      })),
    ...compounds(build, props.known, props.taken),
    {
      label: 'Branch',
      what: 'go one of several ways',
      make: (words: string): Step[] => [
        {
          key: key(words || 'branch'),
          kind: 'branch',
          title: words || 'Which way?',
          branch: { ways: [], otherwise: [] },
        },
      ],
    },
    {
      label: 'Repeat',
      what: 'do steps for each of a list',
      make: (words: string): Step[] => [
        {
          key: key(words || 'repeat'),
          kind: 'repeat',
          title: words || 'For each of them',
          repeat: { for_each: '', item: '', steps: [] },
        },
      ],
    },
    {
      label: 'Finish',
      what: 'a closing screen',
      make: (words: string): Step[] => [
        {
          key: key(words || 'done'),
          kind: 'finish',
          title: words || 'Done',
          finish: { message: 'Done.' },
        },
      ],
    },
  ]
})

/** "Screen: Which customer?" makes a screen of that title. */
function split(query: string): [string, string] {
  const at = query.indexOf(':')
  return at < 0 ? [query, ''] : [query.slice(0, at), query.slice(at + 1).trim()]
}

// What was typed last counts, not what the options were looked for by: that may be a few
// letters behind.
let typed = ''
watch(text, (t) => typeof t === 'string' && (typed = t), { flush: 'sync' })

function complete(event: AutoCompleteCompleteEvent): void {
  found.value = beginning(verbs.value, split(event.query)[0])
}

function take(option: Made): void {
  emit('make', option.make(split(typed)[1]))
}

onMounted(() => box.value?.$el.querySelector('input')?.focus())
</script>

<template>
  <div class="new" @keydown.esc.stop="emit('cancel')">
    <AutoComplete
      ref="box"
      v-model="text"
      :suggestions="found"
      option-label="label"
      :delay="0"
      :min-length="0"
      complete-on-focus
      auto-option-focus
      placeholder="Screen: its title · search … · find … · choose … · add … · change · remove · work out · gather · branch · repeat · finish"
      fluid
      aria-label="New step: type its verb"
      @complete="complete"
      @option-select="take($event.value)"
    >
      <template #option="{ option }">
        <span class="option"
          >{{ option.label }} <span class="muted">{{ option.what }}</span></span
        >
      </template>
    </AutoComplete>
    <button type="button" class="plain muted" @click="emit('cancel')">Cancel</button>
  </div>
</template>

<style scoped>
.new {
  display: flex;
  gap: 0.8rem;
  padding: 0.4rem 0.8rem;
  max-width: 40rem;
}
.option {
  display: flex;
  justify-content: space-between;
  gap: 2rem;
  width: 100%;
}
</style>
