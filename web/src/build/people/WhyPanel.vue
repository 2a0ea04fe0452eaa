<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import type { Name } from '@/api/types'
import { format } from '@/fields/fields'
import { useBuild } from '../build'
import { conditionLines } from '../words'

/** Why somebody may see and change a record, or what stops them. */
const props = defineProps<{ object: string; record: number }>()
const build = useBuild()
const person = ref(0)
const people = computed(() => (build.contents?.people ?? []).map((p) => ({ id: p.id, label: p.name })))
const names: Name[] = [
  {
    key: 'person',
    label: 'The person',
    type: {
      kind: 'screen',
      answers: [{ key: 'organisation', label: 'the person’s organisation', type: { kind: 'record' } }],
    },
  },
]

const { found: why, failed } = useAsked(
  () => ['why', props.object, person.value, props.record],
  (signal) =>
    given(
      api.POST('/build/spaces/{space}/why', {
        params: { path: { space: 'trial' } },
        body: { person: person.value, object: props.object, record: props.record },
        signal,
      }),
    ),
  { when: () => !!person.value && !!props.record, fresh: true },
)
</script>

<template>
  <section>
    <div class="row">
      Why may
      <Select
        v-model="person"
        :options="people"
        option-label="label"
        option-value="id"
        size="small"
        placeholder="somebody"
        aria-label="Whose rights"
      />
      see or change this?
    </div>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <div v-if="why" aria-live="polite">
      <p>
        <span :class="why.sees ? 'good' : 'bad'">{{ why.sees ? 'Sees it' : 'Does not see it' }}</span>,
        {{ why.change ? 'may change it' : 'may not change it' }},
        {{ why.remove ? 'may remove it' : 'may not remove it' }}.
      </p>
      <p v-if="!why.roles.length" class="muted">They have no role here, so they may do nothing.</p>
      <ul>
        <li v-for="r in why.roles" :key="r.label">
          <strong>{{ r.label }}</strong>:
          <template v-if="!r.see">may not see {{ build.object(object)?.plural.toLowerCase() }}</template>
          <template v-else-if="!r.why.length">sees all of them</template>
          <ul v-else>
            <li v-for="(w, i) in r.why" :key="i">
              <span :class="w.holds ? 'good' : 'bad'">{{ w.holds ? 'yes' : 'no' }}</span>
              {{ conditionLines(build, names, object, w.condition).join(' and ') }}
              <span v-if="w.heading" class="muted">
                — it has {{ format(w.heading, w.looked) || 'nothing there' }}</span
              >
            </li>
          </ul>
        </li>
      </ul>
      <p v-if="why.hidden.length">Hidden from them: {{ why.hidden.join(', ') }}.</p>
      <p v-if="why.fixed.length && why.change">To read only: {{ why.fixed.join(', ') }}.</p>
    </div>
  </section>
</template>

<style scoped>
section {
  border-top: 1px solid var(--line);
  margin-top: 1rem;
  padding: 0.8rem 0 1.5rem;
}
p {
  margin: 0.4rem 0;
}
ul {
  margin: 0;
  padding-left: 1.1rem;
}
</style>
