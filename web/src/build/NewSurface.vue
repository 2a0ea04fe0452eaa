<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import MultiSelect from 'primevue/multiselect'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import { keyFrom, useBuild } from './build'
import { documents, type DocumentKind } from './documents'
import { type Beginning, beginnings } from './page/making'

/** A new walkthrough or page: what it is called, who gets it, and what a page begins with. */
const props = defineProps<{ kind: DocumentKind; object?: string }>()
const open = defineModel<boolean>('open', { required: true })
const build = useBuild()
const router = useRouter()
const label = ref('')
const chosen = ref<string[]>([])
const { failed, attempt } = useDoing()
const fresh = computed(() => documents[props.kind].fresh)
const roles = computed(() => build.contents?.documents.filter((d) => d.kind === 'role') ?? [])

const begins = ref<Beginning>(props.object ? 'record' : 'empty')
const object = ref(props.object ?? '')
const ways = [
  { key: 'empty', label: 'nothing yet' },
  ...Object.entries(beginnings).map(([key, { words }]) => ({ key, label: words })),
]
const about = computed(() => build.object(object.value))
/** The label that was proposed, which is taken back when something else is chosen. */
let proposed = ''
watch(
  [begins, about],
  ([how, of]) => {
    if (label.value && label.value !== proposed) return
    proposed = how !== 'empty' && of ? beginnings[how].label(of) : ''
    label.value = proposed
  },
  { immediate: true },
)
const ready = computed(() => !!label.value.trim() && (begins.value === 'empty' || !!about.value))

async function make(): Promise<void> {
  const taken = build.contents?.documents.filter((d) => d.kind === props.kind).map((d) => d.key) ?? []
  const key = keyFrom(label.value, taken)
  const base = { key, label: label.value.trim(), roles: chosen.value }
  const made = begins.value !== 'empty' && about.value && beginnings[begins.value].body(about.value, build)
  const body = { ...base, ...fresh.value?.body, ...made }
  await attempt(async () => {
    await given(api.POST('/build/documents', { body: { kind: props.kind, key, body } }))
    await build.load()
    open.value = false
    label.value = ''
    await router.push(`/build/${props.kind}/${key}`)
  })
}
</script>

<template>
  <Dialog v-model:visible="open" modal :header="'New ' + kind" :style="{ width: '26rem' }">
    <form @submit.prevent="make">
      <template v-if="kind === 'page'">
        <label for="new-begins">What does it begin with?</label>
        <Select
          v-model="begins"
          label-id="new-begins"
          :options="ways"
          option-label="label"
          option-value="key"
          aria-label="What the page begins with"
          fluid
        />
        <template v-if="begins !== 'empty'">
          <label for="new-object">Of what?</label>
          <Select
            v-model="object"
            label-id="new-object"
            :options="build.own"
            option-label="plural"
            option-value="key"
            filter
            placeholder="Choose what it is about"
            aria-label="What the page is about"
            fluid
          />
        </template>
      </template>
      <label for="new-label">What is it called?</label>
      <InputText id="new-label" v-model="label" :placeholder="fresh?.example" required autofocus fluid />
      <label for="new-roles">{{ fresh?.asks }}</label>
      <MultiSelect
        v-model="chosen"
        input-id="new-roles"
        :options="roles"
        option-label="label"
        option-value="key"
        placeholder="Choose roles"
        fluid
      />
      <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
      <Button type="submit" label="Make it" :disabled="!ready" />
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
button[type='submit'] {
  align-self: flex-start;
  margin-top: 0.8rem;
}
</style>
