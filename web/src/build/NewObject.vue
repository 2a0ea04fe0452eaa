<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { ObjectDef } from '@/api/types'
import { keyFrom, useBuild } from './build'

const open = defineModel<boolean>('open', { required: true })
const build = useBuild()
const router = useRouter()
const label = ref('')
const plural = ref('')
const { failed, attempt } = useDoing()

async function make(): Promise<void> {
  const one = label.value.trim()
  const key = keyFrom(
    one,
    (build.contents?.objects ?? []).map((o) => o.key),
  )
  const body: ObjectDef = {
    key,
    label: one,
    plural: plural.value.trim() || one + 's',
    label_field: 'name',
    fields: [{ key: 'name', label: 'Name', type: 'text', required: true }],
  }
  await attempt(async () => {
    await given(api.POST('/build/documents', { body: { kind: 'object', key, body } }))
    await build.load()
    open.value = false
    label.value = plural.value = ''
    await router.push('/build/object/' + key)
  })
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="New object" :style="{ width: '26rem' }">
    <form @submit.prevent="make">
      <label for="object-label">What is one of them called?</label>
      <InputText id="object-label" v-model="label" placeholder="Lift" required autofocus fluid />
      <label for="object-plural">And several?</label>
      <InputText id="object-plural" v-model="plural" :placeholder="label ? label + 's' : 'Lifts'" fluid />
      <p class="muted">
        It begins with one field, Name. If the records are in a spreadsheet already,
        <RouterLink to="/build/intake" @click="open = false">bring that in</RouterLink> instead.
      </p>
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
p {
  margin: 0.3rem 0;
}
button[type='submit'] {
  align-self: flex-start;
  margin-top: 0.6rem;
}
</style>
