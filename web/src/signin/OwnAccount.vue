<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { ref, watch } from 'vue'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { Sessions } from '@/api/types'
import { moment } from '@/fields/zone'

/** One's own password, and where one is signed in. */
const open = defineModel<boolean>({ required: true })
const sessions = ref<Sessions['sessions']>([])
const { failed, problems: problem, attempt } = useDoing()
const now = ref('')
const next = ref('')
const done = ref('')
const shortest = 15

async function ask(work: () => Promise<Sessions>, said = ''): Promise<void> {
  done.value = ''
  const went = await attempt(async () => {
    sessions.value = (await work()).sessions
  })
  if (went) done.value = said
}

watch(open, (is) => {
  if (!is) return
  now.value = next.value = ''
  void ask(() => given(api.GET('/session/all')))
})

async function change(): Promise<void> {
  await ask(
    () => given(api.PUT('/session/password', { body: { now: now.value, next: next.value } })),
    'Your password is changed, and you are signed out everywhere else.',
  )
  if (!failed.value) now.value = next.value = ''
}

const end = (id: number) => ask(() => given(api.DELETE('/session/all/{id}', { params: { path: { id } } })))
const endOthers = () => ask(() => given(api.DELETE('/session/others')), 'You are signed out everywhere else.')

/** What a browser calls itself, as short as tells it apart. */
function browser(agent: string): string {
  const name = agent.match(/(Firefox|Edg|Chrome|Safari)\/[\d.]+/)?.[1]
  const system = agent.match(/(Windows|Mac OS X|Android|iPhone|iPad|Linux)/)?.[1]
  return [name === 'Edg' ? 'Edge' : name, system && 'on ' + system].filter(Boolean).join(' ') || 'a program'
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="Password and sessions" :style="{ width: '32rem' }">
    <form @submit.prevent="change">
      <label for="own-now">Your password</label>
      <InputText
        id="own-now"
        v-model="now"
        type="password"
        autocomplete="current-password"
        :invalid="!!problem.now"
      />
      <label for="own-next">A new one, at least {{ shortest }} characters; a few words will do</label>
      <InputText
        id="own-next"
        v-model="next"
        type="password"
        autocomplete="new-password"
        :invalid="!!problem.password"
      />
      <Button type="submit" size="small" label="Change it" :disabled="!now || next.length < shortest" />
    </form>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <p v-if="done" class="good" role="status">{{ done }}</p>
    <h2>Where you are signed in</h2>
    <ul>
      <li v-for="s in sessions" :key="s.id" class="row">
        <span class="what"
          >{{ browser(s.agent) }}, {{ s.address }}<br /><span class="muted"
            >since {{ moment(s.began) }}</span
          ></span
        >
        <span v-if="s.here" class="muted">here</span>
        <Button v-else text size="small" label="Sign out there" @click="end(s.id)" />
      </li>
    </ul>
    <Button
      v-if="sessions.length > 1"
      outlined
      size="small"
      label="Sign out everywhere else"
      @click="endOthers"
    />
  </Dialog>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
form button {
  align-self: flex-start;
  margin-top: 0.4rem;
}
h2 {
  margin: 1.2rem 0 0.3rem;
}
ul {
  list-style: none;
  margin: 0 0 0.8rem;
  padding: 0;
}
li {
  border-bottom: 1px solid var(--line);
  padding: 0.4rem 0;
}
.what {
  flex: 1;
}
</style>
