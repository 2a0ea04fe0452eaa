<script setup lang="ts">
import Button from 'primevue/button'
import { useConfirm } from 'primevue/useconfirm'
import { computed, onMounted } from 'vue'
import { useRouter } from 'vue-router'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import { useEffects } from './effects'
import { useMenu } from './menu'
import { moment } from '@/fields/zone'

const router = useRouter()
const confirm = useConfirm()
const menu = useMenu()
const { begin } = useEffects(true)
const home = computed(() => menu.home)
const reading = useDoing()
const starting = useDoing()
const failed = computed(() => starting.failed.value || reading.failed.value)

const load = () => reading.attempt(async () => void (await menu.load()))
onMounted(load)

const start = (key: string) =>
  starting.attempt(async () => {
    const run = await begin(key)
    await router.push('/use/run/' + run.id)
  })

function discard(id: string, label: string): void {
  confirm.require({
    defaultFocus: 'reject',
    header: 'Throw this away?',
    message: `What you entered in “${label}” so far is lost. Records it has already written stay.`,
    acceptLabel: 'Throw away',
    rejectLabel: 'Keep it',
    rejectProps: { outlined: true },
    accept: async () => {
      await given(api.DELETE('/use/runs/{id}', { params: { path: { id } } }))
      await load()
    },
  })
}
</script>

<template>
  <main id="main" class="home">
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="load">Try again</button>
    </p>
    <template v-if="home">
      <section v-if="home.open.length">
        <h1>Not finished yet</h1>
        <ul>
          <li v-for="o in home.open" :key="o.id" class="row">
            <RouterLink :to="'/use/run/' + o.id"
              ><strong>{{ o.label }}</strong></RouterLink
            >
            <span class="muted">at “{{ o.at }}”, {{ moment(o.changed_at) }}</span>
            <Button
              text
              size="small"
              label="Throw away"
              severity="secondary"
              @click="discard(o.id, o.label)"
            />
          </li>
        </ul>
      </section>
      <section v-if="home.pages.length">
        <h1>Where would you like to look?</h1>
        <ul>
          <li v-for="p in home.pages" :key="p.key">
            <RouterLink :to="'/use/page/' + p.key" class="entry">
              <span class="link">{{ p.label }}</span>
              <span class="muted">{{ p.note }}</span>
            </RouterLink>
          </li>
        </ul>
      </section>
      <section>
        <h1>What would you like to do?</h1>
        <p v-if="!home.walkthroughs.length" class="muted">
          Nothing has been released for your role yet. A builder releases it from Build.
        </p>
        <ul>
          <li v-for="w in home.walkthroughs" :key="w.key">
            <button type="button" class="plain entry" :disabled="starting.busy.value" @click="start(w.key)">
              <span class="link">{{ w.label }}</span>
              <span class="muted">{{ w.note }}</span>
            </button>
          </li>
        </ul>
      </section>
    </template>
  </main>
</template>

<style scoped>
.home {
  max-width: 46rem;
  margin: 2.5rem auto;
  padding: 0 1.2rem;
}
section {
  margin-bottom: 2.4rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0.8rem 0 0;
  border-top: 1px solid var(--line);
}
li {
  border-bottom: 1px solid var(--line);
  min-height: 2.6rem;
}
.entry {
  text-decoration: none;
  color: inherit;
  display: flex;
  flex-direction: column;
  width: 100%;
  padding: 0.6rem 0;
}
.entry .link {
  font-weight: 650;
}
</style>
