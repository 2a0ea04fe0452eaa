<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'

/** Where the link of an invitation or of a reset leads. */
const props = defineProps<{ token: string }>()
const router = useRouter()
const password = ref('')
const { busy, failed, attempt } = useDoing()

const choose = () =>
  attempt(async () => {
    await given(api.POST('/password', { body: { token: props.token, password: password.value } }))
    await router.push('/sign-in')
  })
</script>

<template>
  <main class="choose">
    <h1>Choose a password</h1>
    <form @submit.prevent="choose">
      <label for="new-password">At least 15 characters; a few words will do</label>
      <InputText
        id="new-password"
        v-model="password"
        type="password"
        autocomplete="new-password"
        fluid
        autofocus
      />
      <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
      <Button type="submit" label="Take this one" :loading="busy" :disabled="password.length < 15" />
    </form>
  </main>
</template>

<style scoped>
.choose {
  max-width: 24rem;
  margin: 6rem auto;
  padding: 0 1.2rem;
}
form {
  display: flex;
  flex-direction: column;
  gap: 0.6rem;
  margin-top: 1rem;
}
button[type='submit'] {
  align-self: flex-start;
}
</style>
