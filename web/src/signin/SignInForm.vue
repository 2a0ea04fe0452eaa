<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Message from 'primevue/message'
import { ref } from 'vue'
import { useDoing } from '@/api/doing'
import { useSession } from '@/session'

const emit = defineEmits<{ done: [] }>()
const session = useSession()
const email = ref('')
const password = ref('')
const { busy, failed, attempt } = useDoing()

const submit = () =>
  attempt(async () => {
    await session.signIn(email.value, password.value)
    emit('done')
  })

function fill(who: { email: string; password: string }): void {
  email.value = who.email
  password.value = who.password
}
defineExpose({ fill })
</script>

<template>
  <form @submit.prevent="submit">
    <label for="email">E-mail address</label>
    <InputText id="email" v-model="email" type="email" autocomplete="username" required autofocus />
    <label for="password">Password</label>
    <InputText id="password" v-model="password" type="password" autocomplete="current-password" required />
    <Message v-if="failed" severity="error" :closable="false" role="alert">{{ failed }}</Message>
    <Button type="submit" label="Sign in" :loading="busy" />
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
label {
  font-weight: 600;
}
button {
  margin-top: 0.6rem;
  align-self: flex-start;
}
</style>
