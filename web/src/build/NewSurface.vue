<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import MultiSelect from 'primevue/multiselect'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import { keyFrom, useBuild } from './build'
import { documents, type DocumentKind } from './documents'

/** A new walkthrough or page: what it is called and who gets it. */
const props = defineProps<{ kind: DocumentKind }>()
const open = defineModel<boolean>('open', { required: true })
const build = useBuild()
const router = useRouter()
const label = ref('')
const chosen = ref<string[]>([])
const { failed, attempt } = useDoing()
const fresh = computed(() => documents[props.kind].fresh)
const roles = computed(() => build.contents?.documents.filter((d) => d.kind === 'role') ?? [])

async function make(): Promise<void> {
  const taken = build.contents?.documents.filter((d) => d.kind === props.kind).map((d) => d.key) ?? []
  const key = keyFrom(label.value, taken)
  const base = { key, label: label.value.trim(), roles: chosen.value }
  const body = { ...base, ...fresh.value?.body }
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
      <Button type="submit" label="Make it" :disabled="!label.trim()" />
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
