<script setup lang="ts">
import Button from 'primevue/button'
import { useConfirm } from 'primevue/useconfirm'
import { computed } from 'vue'
import { api, given } from '@/api/client'
import { useAsked } from '@/api/asked'
import { useDoing } from '@/api/doing'
import type { PartView } from '@/api/types'
import { moment } from '@/fields/zone'
import type { SurfaceSource } from './source'

/** Where somebody can go: what they did not finish, pages, walkthroughs. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ part: Pick<PartView, 'label' | 'menu'>; source: SurfaceSource }>()
const confirm = useConfirm()
const starting = useDoing()
const {
  found: home,
  failed: notRead,
  again,
} = useAsked(
  () => ['menu'],
  (signal) => given(api.GET('/use/home', { signal })),
)
const failed = computed(() => starting.failed.value || notRead.value)
const menu = computed(() => props.part.menu ?? {})
const unfinished = computed(() => (menu.value.unfinished ? (home.value?.open ?? []) : []))
const pages = computed(() => (home.value?.menu ?? []).flatMap((g) => g.pages))
const bare = computed(
  () =>
    home.value &&
    !unfinished.value.length &&
    !(menu.value.pages && pages.value.length) &&
    !(menu.value.walkthroughs && home.value.walkthroughs.length),
)

const nothing = computed(() =>
  menu.value.pages && menu.value.walkthroughs
    ? 'Nothing has been released for your role yet. A builder releases it from Build.'
    : 'There is nothing of that for you.',
)

const start = (walkthrough: string) =>
  starting.attempt(async () => props.source.effect?.({ kind: 'run', walkthrough }))

function discard(id: string, label: string): void {
  confirm.require({
    defaultFocus: 'reject',
    header: 'Throw this away?',
    message: `What you entered in “${label}” so far is lost. Records it has already written stay.`,
    acceptLabel: 'Throw away',
    rejectLabel: 'Keep it',
    rejectProps: { outlined: true },
    accept: () =>
      starting.attempt(async () => {
        await given(api.DELETE('/use/runs/{id}', { params: { path: { id } } }))
        await again()
      }),
  })
}
</script>

<template>
  <section class="menu">
    <h2 v-if="part.label">{{ part.label }}</h2>
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="again()">Try again</button>
    </p>
    <template v-if="home">
      <template v-if="unfinished.length">
        <h2>Not finished yet</h2>
        <ul>
          <li v-for="o in unfinished" :key="o.id" class="row">
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
      </template>
      <template v-if="menu.pages && pages.length">
        <h2>Where would you like to look?</h2>
        <ul>
          <li v-for="p in pages" :key="p.key">
            <RouterLink :to="'/use/page/' + p.key" class="entry">
              <span class="link">{{ p.label }}</span>
              <span class="muted">{{ p.note }}</span>
            </RouterLink>
          </li>
        </ul>
      </template>
      <template v-if="menu.walkthroughs && home.walkthroughs.length">
        <h2>What would you like to do?</h2>
        <ul>
          <li v-for="w in home.walkthroughs" :key="w.key">
            <button type="button" class="plain entry" :disabled="starting.busy.value" @click="start(w.key)">
              <span class="link">{{ w.label }}</span>
              <span class="muted">{{ w.note }}</span>
            </button>
          </li>
        </ul>
      </template>
      <p v-if="bare" class="muted">
        {{ nothing }}
      </p>
    </template>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0.4rem 0 1.8rem;
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
