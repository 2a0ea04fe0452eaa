<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { titleOf } from '@/api/client'
import { latest } from '@/api/latest'
import { findIn } from '@/api/options'
import type { CandidatesView, Condition, FieldDef, Name, Ref } from '@/api/types'
import { format } from '@/fields/fields'
import ReferenceInput from '@/fields/ReferenceInput.vue'
import { target as targetOf, useBuild } from '../build'
import ConditionGroup from '../conditions/ConditionGroup.vue'
import { asks, unfinished } from '../conditions/unfinished'
import { conditionLines } from '../words'
import type { Records } from './records'

/** Which records a reference may point at, tried on real records while it is written. */
const props = defineProps<{ field: FieldDef; records: Records; record: number; names: Name[] }>()
const emit = defineEmits<{ change: [rule: Condition | undefined] }>()
const build = useBuild()
const target = computed(() => targetOf(props.field)!)
const draft = ref<Condition>({ all: [] })
const view = ref<CandidatesView | null>(null)
const asked = ref<Ref | null>(null)
const failed = ref('')
const question = latest()
watch(
  () => props.field.candidates,
  (rule) => (draft.value = rule ?? { all: [] }),
  { immediate: true },
)

const plural = computed(() => build.object(target.value)?.plural.toLowerCase() ?? 'records')
const same = computed(
  () =>
    JSON.stringify(asks(draft.value) ? draft.value : null) === JSON.stringify(props.field.candidates ?? null),
)
const refused = computed(() => view.value?.findings.length ?? 0)

const attempt = useDebounceFn(async () => {
  if (unfinished(draft.value)) return
  const isLatest = question.ask()
  const rule = asks(draft.value) ? draft.value : undefined
  failed.value = ''
  try {
    const found = await props.records.candidates({
      field: props.field.key,
      rule,
      editing: { id: props.record, values: {} },
      record: asked.value?.id,
    })
    if (!isLatest()) return
    view.value = found
    // A rule that can be used is in force at once; one that cannot leaves the earlier one.
    if (!refused.value && !same.value) emit('change', rule)
  } catch (error) {
    if (isLatest()) failed.value = titleOf(error)
  }
}, 200)
// The contents are read again after every edit: what was just changed is stored then.
watch([draft, asked, () => props.record, target, () => build.contents], () => attempt(), {
  immediate: true,
})
watch(target, () => (asked.value = null))

const offered = computed(() => view.value?.offered ?? false)
const find = (text: string) => findIn(() => target.value)(text)

const earlier = computed(() =>
  props.field.candidates
    ? conditionLines(build, props.names, target.value, props.field.candidates).join(' and ')
    : 'all ' + plural.value,
)
</script>

<template>
  <div class="candidates">
    <p class="lead">Only {{ plural }} can be chosen for which</p>
    <ConditionGroup v-model="draft" :place="field.key" :object="target" />
    <p v-if="unfinished(draft)" class="muted">
      A condition is not finished. In force meanwhile: {{ earlier }}.
    </p>
    <p v-for="f in view?.findings ?? []" :key="f.pointer" class="bad" role="alert">
      {{ f.text }} In force meanwhile: {{ earlier }}.
    </p>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <template v-if="view && !refused">
      <p aria-live="polite" class="count">
        <strong>{{ view.chosen }} of {{ view.all }}</strong> {{ plural }} can be chosen<template
          v-for="r in view.related"
          :key="r.object"
          >; {{ r.matched }}
          {{ build.object(r.object)?.[r.matched === 1 ? 'label' : 'plural'].toLowerCase() }} matched,
          {{ r.distinct }} different {{ plural }}</template
        >.
      </p>
      <ul class="options">
        <li v-for="o in view.options" :key="o.id">
          <button
            type="button"
            class="plain link"
            :aria-pressed="asked?.id === o.id"
            :title="'Why ' + o.label"
            @click="asked = asked?.id === o.id ? null : o"
          >
            {{ o.label }}
          </button>
        </li>
        <li v-if="view.chosen > view.options.length" class="muted">
          … and {{ view.chosen - view.options.length }} more
        </li>
      </ul>
      <div class="row">
        <label :for="'why-' + field.key">Why is it so for</label>
        <span class="asked"><ReferenceInput :id="'why-' + field.key" v-model="asked" :find="find" /></span>
      </div>
      <div v-if="asked && view.why.length" class="why">
        <p>
          {{ asked.label }} <strong>{{ offered ? 'can' : 'cannot' }}</strong> be chosen:
        </p>
        <ul>
          <li v-for="(w, i) in view.why" :key="i">
            <span :class="w.holds ? 'good' : 'bad'">{{ w.holds ? 'yes' : 'no' }}</span>
            {{ conditionLines(build, names, target, w.condition).join(' and ') }}
            <span class="muted">
              — it has
              {{
                w.heading
                  ? format(w.heading, w.looked) || 'nothing there'
                  : w.condition.related
                    ? w.looked + ' such'
                    : 'been computed'
              }}</span
            >
          </li>
        </ul>
      </div>
    </template>
  </div>
</template>

<style scoped>
.candidates {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
p {
  margin: 0;
}
.options {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 0.1rem 0.9rem;
  max-height: 5.5rem;
  overflow: auto;
}
.options button[aria-pressed='true'] {
  font-weight: 650;
}
.asked {
  width: 16rem;
}
.why {
  border-left: 2px solid var(--line);
  padding-left: 0.7rem;
}
.why ul {
  margin: 0;
  padding-left: 1rem;
}
</style>
