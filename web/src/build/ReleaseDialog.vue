<script setup lang="ts">
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import { useToast } from 'primevue/usetoast'
import { computed, nextTick, ref, watch } from 'vue'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { Hidden } from '@/api/types'
import { hiddenWords } from './hidden'
import ObstacleList from './ObstacleList.vue'
import { useBuild } from './build'
import { useReadying } from './readying'

/** The draft is looked at, or an earlier release that is to be in force again. */
const props = defineProps<{ again?: number }>()
const open = defineModel<boolean>('open', { required: true })
const build = useBuild()
const toast = useToast()
// Each time it is looked at anew.
const openings = ref(0)
const { found: preview, failed: notLooked } = useAsked(
  () => ['release', props.again, openings.value],
  (signal) =>
    given(
      api.GET('/build/release', { params: { query: props.again ? { again: props.again } : {} }, signal }),
    ),
  { when: () => open.value, fresh: true },
)
/** Kept rehearsals are run before every release of the draft. */
const { found: examples, failed: notRun } = useAsked(
  () => ['examples', openings.value],
  (signal) => given(api.GET('/build/examples', { params: { query: {} }, signal })),
  { when: () => open.value && !props.again, fresh: true },
)
const failing = computed(() => examples.value?.filter((e) => e.failed || e.differences.length) ?? [])
const despite = ref('')
const { busy, failed: notReleased, attempt, reset } = useDoing()
const failed = computed(() => notReleased.value || notLooked.value || notRun.value)
const note = ref('')
const title = computed(() => {
  if (props.again) return `Back to release ${props.again}: what changes`
  return preview.value ? `Release ${preview.value.number}: what changes` : 'Release'
})
/** What is hidden and was ticked to be dropped for good. */
const drops = ref<Hidden[]>([])
const stops = computed(() => preview.value?.findings.filter((f) => f.severity === 'stop') ?? [])
const ready = computed(
  () =>
    !!(preview.value?.changes.length || drops.value.length) &&
    !stops.value.length &&
    !preview.value?.obstacles.length &&
    (props.again || (examples.value && (!failing.value.length || despite.value.trim()))) &&
    !busy.value,
)
const kinds: Record<string, string> = {
  walkthrough: 'Walkthrough',
  object: 'Object',
  role: 'Role',
  app: 'App',
  page: 'Page',
}
const roleLabel = (key: string) =>
  build.contents?.documents.find((d) => d.kind === 'role' && d.key === key)?.label ?? key
function people(role: string): string {
  const n = preview.value?.people[role] ?? 0
  return n === 1 ? '1 person' : n ? `${n} people` : 'nobody'
}
const many = (n: number) => (n === 1 ? '1 walkthrough' : `${n} walkthroughs`)

watch(open, (now) => {
  if (!now) return
  openings.value++
  drops.value = []
  reset()
})
watch(preview, async (found) => {
  if (!found) return
  if (props.again) note.value = `As release ${props.again}`
  await nextTick()
  document.getElementById('note')?.focus()
})

const far = useReadying(busy)

const release = () =>
  attempt(async () => {
    const body = {
      version: preview.value!.version,
      note: note.value,
      despite: despite.value.trim() || undefined,
      again: props.again,
      drops: drops.value.map(({ object, field }) => ({ object, field })),
    }
    const made = await given(api.POST('/build/release', { body }))
    open.value = false
    note.value = ''
    despite.value = ''
    toast.add({
      severity: 'success',
      summary: `Release ${made.number} is in force`,
      detail: 'Whoever is in the middle of something finishes on the release they began on.',
      life: 6000,
    })
    await build.load()
  })
</script>

<template>
  <Dialog v-model:visible="open" modal :header="title" :style="{ width: '40rem' }">
    <p v-if="far" class="muted" aria-live="polite">{{ far }}</p>
    <Message v-if="failed" severity="error" :closable="false" role="alert">{{ failed }}</Message>
    <template v-if="preview">
      <p v-if="!preview.changes.length">Nothing has changed since the release in force.</p>
      <div v-for="c in preview.changes" :key="c.document" class="change">
        <h2>{{ kinds[c.document.split('/')[0] ?? ''] }} “{{ c.label }}” is {{ c.what }}</h2>
        <ul>
          <li v-if="c.roles.length" class="muted">
            concerns
            {{ c.roles.map((r) => `${roleLabel(r)} (${people(r)})`).join(', ') }}
          </li>
          <li v-for="d in c.details" :key="d">{{ d }}</li>
          <li v-for="d in c.stored" :key="d" class="care">Stored records: {{ d }}</li>
        </ul>
      </div>
      <p v-if="preview.underway.go_on" class="muted">
        {{ many(preview.underway.go_on) }} that people are in the middle of
        {{ preview.underway.go_on === 1 ? 'goes' : 'go' }} on as begun.
      </p>
      <Message v-if="preview.underway.stuck.length" severity="warn" :closable="false">
        People are in the middle of walkthroughs that cannot go on after this release. What these wrote stays;
        they have to be begun again.
        <ul>
          <li v-for="s in preview.underway.stuck" :key="s.walkthrough + s.why">
            “{{ s.label }}”, {{ s.count }} unfinished, by {{ s.people.join(', ') }}: {{ s.why }}
          </li>
        </ul>
      </Message>
      <ObstacleList v-if="preview.obstacles.length" :obstacles="preview.obstacles" />
      <Message v-if="stops.length" severity="error" :closable="false">
        {{ stops.length }} {{ stops.length === 1 ? 'finding keeps' : 'findings keep' }} the draft from being
        released.
        <ul>
          <li v-for="f in stops" :key="f.document + f.pointer">
            <RouterLink :to="'/build/' + f.document" @click="open = false">{{ f.document }}</RouterLink>:
            {{ f.text }}
          </li>
        </ul>
      </Message>
      <p v-if="!again && !examples && !notRun" class="muted">Running the kept rehearsals …</p>
      <p v-else-if="examples?.length && !failing.length" class="good">
        {{
          examples.length === 1 ? 'The kept rehearsal comes' : `All ${examples.length} kept rehearsals come`
        }}
        out as expected.
      </p>
      <Message v-if="failing.length" severity="error" :closable="false">
        {{ failing.length }} of {{ examples?.length }} kept rehearsals
        {{ failing.length === 1 ? 'does' : 'do' }} not come out as expected.
        <div v-for="e in failing" :key="e.walkthrough + e.key">
          <RouterLink :to="'/build/walkthrough/' + e.walkthrough" @click="open = false"
            >“{{ e.name }}” of {{ e.label }}</RouterLink
          >
          <ul>
            <li v-if="e.failed">{{ e.failed }}</li>
            <li v-for="d in e.differences" :key="d.what">
              {{ d.what }}: {{ d.now || 'nothing' }} instead of {{ d.expected || 'nothing' }}
            </li>
          </ul>
        </div>
        <div class="row">
          <label for="despite">It is released all the same, because</label>
          <InputText id="despite" v-model="despite" class="note" />
        </div>
      </Message>
      <details v-if="preview.hidden.length" class="hidden">
        <summary>
          {{ preview.hidden.length }} {{ preview.hidden.length === 1 ? 'thing is' : 'things are' }} hidden and
          kept<template v-if="drops.length">, {{ drops.length }} of them to be dropped for good</template>
        </summary>
        <label v-for="h in preview.hidden" :key="h.object + '.' + (h.field ?? '')" class="row">
          <Checkbox v-model="drops" :value="h" />
          {{ hiddenWords(h) }}
        </label>
        <p v-if="drops.length" class="bad">
          What is ticked is gone with this release, in trial too, and nothing brings it back. The history
          keeps what it says of it.
        </p>
      </details>
      <form v-if="preview.changes.length || drops.length" class="row" @submit.prevent="release">
        <label for="note">Note</label>
        <InputText
          id="note"
          v-model="note"
          autofocus
          placeholder="What is new, in a few words"
          class="note"
        />
        <Button
          type="submit"
          :label="again ? `Go back to release ${again}` : `Release ${preview.number}`"
          :disabled="!ready"
          :loading="busy"
        />
      </form>
    </template>
    <p v-else-if="!failed" class="muted">
      Working out what would change, and trying it on the stored records …
    </p>
  </Dialog>
</template>

<style scoped>
.change {
  margin-bottom: 0.8rem;
}
ul {
  margin: 0.2rem 0;
  padding-left: 1.2rem;
}
.hidden {
  margin: 0.6rem 0;
}
.note {
  flex: 1;
}
form {
  margin-top: 0.8rem;
}
</style>
