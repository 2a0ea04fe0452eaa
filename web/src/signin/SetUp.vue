<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import RadioButton from 'primevue/radiobutton'
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { SettingUp } from '@/api/types'
import { useSession } from '@/session'
import { longList } from '@/fields/longlist'

/** Where the first administrator and the first app are made, by the address that the program printed. */
const props = defineProps<{ token: string }>()
const router = useRouter()
const session = useSession()
const { found: offer, failed: notOffered } = useAsked(
  () => ['setup', props.token],
  () => given(api.GET('/setup/{token}', { params: { path: { token: props.token } } })),
)
const { busy, failed: notMade, problems, attempt } = useDoing()
const failed = computed(() => notMade.value || notOffered.value)
type Beginning = 'empty' | 'files' | 'demo'
const begin = ref<Beginning>('empty')
const shortest = 15
const entered = ref<Omit<SettingUp, 'token'>>({
  name: '',
  email: '',
  password: '',
  app: '',
  currency: 'EUR',
  zone: Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC',
  organisation: '',
})
const zones = ['UTC', ...Intl.supportedValuesOf('timeZone').filter((z) => z !== 'UTC')]
const currencies = Intl.supportedValuesOf('currency')
const beginnings = computed(() => [
  { key: 'empty', label: 'With nothing: I make the first object myself' },
  { key: 'files', label: 'With spreadsheets: I bring in what we have' },
  ...(offer.value?.demo
    ? [{ key: 'demo', label: 'With the app and records of the demo, to look around' }]
    : []),
])
const ready = computed(
  () =>
    entered.value.name.trim() &&
    entered.value.email.trim() &&
    entered.value.password.length >= shortest &&
    (begin.value === 'demo' || entered.value.app.trim()),
)

const make = () =>
  attempt(async () => {
    await given(
      api.POST('/setup', {
        body: { token: props.token, ...entered.value, demo: begin.value === 'demo' },
      }),
    )
    await session.signIn(entered.value.email.trim(), entered.value.password)
    await router.push(begin.value === 'files' ? '/build/intake' : '/build')
  })
</script>

<template>
  <main id="main" class="page">
    <p class="mark">Plain Path</p>
    <h1>Begin</h1>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <form v-if="offer" @submit.prevent="make">
      <h2>You, the first administrator</h2>
      <label for="s-name">Name</label>
      <InputText
        id="s-name"
        v-model="entered.name"
        :invalid="!!problems.name"
        autocomplete="name"
        autofocus
      />
      <label for="s-email">E-mail address</label>
      <InputText
        id="s-email"
        v-model="entered.email"
        type="email"
        :invalid="!!problems.email"
        autocomplete="username"
      />
      <label for="s-password">A password of at least {{ shortest }} characters; a few words will do</label>
      <InputText
        id="s-password"
        v-model="entered.password"
        type="password"
        :invalid="!!problems.password"
        autocomplete="new-password"
      />
      <h2>How to begin</h2>
      <label v-for="b in beginnings" :key="b.key" class="row">
        <RadioButton v-model="begin" :value="b.key" name="begin" />{{ b.label }}
      </label>
      <template v-if="begin !== 'demo'">
        <h2>The app</h2>
        <label for="s-app">What it is called, such as the company</label>
        <InputText id="s-app" v-model="entered.app" :invalid="!!problems.app" />
        <div class="pair">
          <div>
            <label for="s-currency">Currency</label>
            <Select
              v-model="entered.currency"
              input-id="s-currency"
              :options="currencies"
              filter
              fluid
              :invalid="!!problems.currency"
              :virtual-scroller-options="longList(currencies)"
            />
          </div>
          <div>
            <label for="s-zone">Time zone</label>
            <Select
              v-model="entered.zone"
              input-id="s-zone"
              :options="zones"
              filter
              fluid
              :invalid="!!problems.zone"
              :virtual-scroller-options="longList(zones)"
            />
          </div>
        </div>
        <label for="s-org">
          If people outside the company are to sign in: what is one of their organisations called?
        </label>
        <InputText
          id="s-org"
          v-model="entered.organisation"
          placeholder="none; or Customer, Partner …"
          :invalid="!!problems.organisation"
        />
        <p class="muted">All of this can be changed later.</p>
      </template>
      <Button type="submit" label="Begin" :loading="busy" :disabled="!ready" />
    </form>
  </main>
</template>

<style scoped>
.page {
  max-width: 32rem;
  margin: 4rem auto;
  padding: 0 1.2rem 3rem;
}
.mark {
  margin: 0 0 0.2rem;
  color: var(--accent);
  font-weight: 700;
}
form {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
h2 {
  margin: 1.2rem 0 0.2rem;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 2fr;
  gap: 0.8rem;
}
button[type='submit'] {
  align-self: flex-start;
  margin-top: 1rem;
}
</style>
