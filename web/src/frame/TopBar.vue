<script setup lang="ts">
import { IconHelp, IconMoon, IconSearch, IconSun } from '@tabler/icons-vue'
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, given } from '@/api/client'
import { useReach } from '@/api/reach'
import { useSession } from '@/session'
import { useDrafts } from '@/build/drafts'
import WaitingEdits from '@/build/WaitingEdits.vue'
import { mayLeave, unsaved } from '@/surface/unsaved'
import { useMenu } from '@/use/menu'
import { useDarkness } from './darkness'
import { useJump, useKeysHelp } from './keys'
import { icons } from './icons'
import MenuGroup from './MenuGroup.vue'
import NoticeBell from './NoticeBell.vue'
import YourTimes from './YourTimes.vue'

const session = useSession()
const drafts = useDrafts()
const route = useRoute()
const router = useRouter()
const dark = useDarkness()
const keys = useKeysHelp()
const jump = useJump()
const menu = useMenu()
const inUse = computed(() => !!session.me?.signed_in && route.path.startsWith('/use'))
/** What is in the menu is asked for until it is known. */
const menuReach = useReach()
const loadMenu = () => void menuReach.reach(() => menu.load()).catch(() => undefined)

watch(
  () => [inUse.value, session.me?.name],
  () => inUse.value && loadMenu(),
  { immediate: true },
)

const people = ref<{ id: number; label: string }[]>([{ id: 0, label: 'yourself' }])

async function loadPeople(): Promise<void> {
  const all = await given(api.GET('/build/people'))
  people.value = [
    { id: 0, label: 'yourself' },
    ...all.people
      .filter((p) => p.active && p.id !== session.me?.id)
      .map((p) => ({ id: p.id, label: p.name })),
  ]
}

/** Everything on the page is asked for anew, through other eyes. */
function see(id: number): void {
  session.seeAs(id, people.value.find((p) => p.id === id)?.label ?? '')
  location.reload()
}

async function leave(): Promise<void> {
  if (!(await mayLeave(unsaved() + drafts.waiting))) return
  drafts.forget()
  await session.signOut()
  await router.push('/sign-in')
}
</script>

<template>
  <header class="bar">
    <a class="skip" href="#main">To the content</a>
    <strong class="name">{{ session.me?.app }}</strong>
    <nav v-if="session.me?.builder" aria-label="Sides">
      <RouterLink to="/build" :class="{ here: route.path.startsWith('/build') }">Build</RouterLink>
      <RouterLink to="/use" :class="{ here: route.path.startsWith('/use') }">Use</RouterLink>
    </nav>
    <nav v-if="inUse" aria-label="Menu">
      <RouterLink to="/use" exact-active-class="here">Home</RouterLink>
      <template v-for="(g, i) in menu.home?.menu ?? []" :key="i">
        <MenuGroup v-if="g.label" :group="g" />
        <RouterLink
          v-for="p in g.label ? [] : g.pages"
          :key="p.key"
          :to="'/use/page/' + p.key"
          active-class="here"
          ><component :is="icons[g.icon]" v-if="g.icon" :size="16" aria-hidden="true" />{{
            p.label
          }}</RouterLink
        >
      </template>
    </nav>
    <span class="space" />
    <WaitingEdits />
    <Select
      v-if="session.me?.builder"
      :model-value="session.as.id"
      :options="people"
      option-label="label"
      option-value="id"
      size="small"
      class="as"
      aria-label="See it as"
      @show="loadPeople"
      @update:model-value="see"
    >
      <template #value>{{ session.as.id ? 'Seen as ' + session.as.name : 'See it as …' }}</template>
    </Select>
    <Button
      v-if="session.me?.signed_in"
      text
      size="small"
      aria-label="Jump to …"
      title="Jump to … (Ctrl K)"
      @click="jump = true"
      ><IconSearch :size="18"
    /></Button>
    <NoticeBell v-if="session.me?.signed_in" />
    <YourTimes v-if="session.me?.signed_in" />
    <Button
      text
      size="small"
      :aria-label="dark ? 'Light colours' : 'Dark colours'"
      :title="dark ? 'Light colours' : 'Dark colours'"
      @click="dark = !dark"
    >
      <IconSun v-if="dark" :size="18" /><IconMoon v-else :size="18" />
    </Button>
    <Button text size="small" aria-label="Keys" title="Keys (?)" @click="keys = true"
      ><IconHelp :size="18"
    /></Button>
    <Button v-if="session.me?.signed_in" text size="small" label="Sign out" @click="leave" />
  </header>
  <p v-if="session.as.id" class="seen" role="status">
    You see this as <strong>{{ session.as.name }}</strong> does. Nothing can be changed meanwhile.
    <button type="button" class="plain link" @click="see(0)">Stop</button>
  </p>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  height: 44px;
  padding: 0 1rem;
  border-bottom: 1px solid var(--line);
  background: var(--panel);
}
.name {
  white-space: nowrap;
}
.as {
  max-width: 14rem;
}
.seen {
  margin: 0;
  padding: 0.3rem 1rem;
  background: var(--tint);
  border-bottom: 1px solid var(--line);
}
/* What is not in the menu keeps its width; the menu scrolls. */
.bar > * {
  flex: none;
}
.bar > .space {
  flex: 1;
}
nav[aria-label='Menu'] {
  flex: 0 1 auto;
  min-width: 0;
  overflow-x: auto;
  scrollbar-width: thin;
}
nav {
  display: flex;
  align-self: stretch;
  margin-left: 0.8rem;
}
nav a,
nav :deep(.group) {
  gap: 0.35rem;
  white-space: nowrap;
  display: flex;
  align-items: center;
  padding: 0 0.7rem;
  color: var(--muted);
  text-decoration: none;
  border-bottom: 2px solid transparent;
}
nav a.here,
nav :deep(.group.here) {
  color: var(--ink);
  border-bottom-color: var(--accent);
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 0.5rem;
  z-index: 9;
  background: var(--panel);
  padding: 0.4rem;
}
@media (max-width: 600px) {
  /* The menu gets a line of its own, along which it scrolls. */
  .bar {
    flex-wrap: wrap;
    height: auto;
    min-height: 44px;
  }
  .bar:has(nav) {
    padding-top: 0.3rem;
  }
  nav {
    order: 1;
    flex-basis: 100%;
    min-width: 0;
    height: 40px;
    margin-left: -0.7rem;
    overflow-x: auto;
  }
}
</style>
