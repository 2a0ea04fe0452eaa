<script setup lang="ts">
import { useToast } from 'primevue/usetoast'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, given, titleOf } from '@/api/client'
import type { ContentsItem, Hidden } from '@/api/types'
import { useBuild } from './build'
import { hiddenWords } from './hidden'
import AppFiles from './AppFiles.vue'
import ReleaseDialog from './ReleaseDialog.vue'
import StartFigures from './StartFigures.vue'
import { moment } from '@/fields/zone'

const build = useBuild()
const router = useRouter()
const toast = useToast()
const found = computed(() => build.contents?.documents.filter((d) => d.findings) ?? [])

const hidden = ref<Hidden[]>([])
watch(
  () => build.contents,
  async () => (hidden.value = (await given(api.GET('/build/hidden')).catch(() => ({ hidden: [] }))).hidden),
  { immediate: true },
)

const releasing = ref(false)
const again = ref(0)
function goBack(release: number): void {
  again.value = release
  releasing.value = true
}

async function bringBack(d: ContentsItem): Promise<void> {
  try {
    await given(
      api.POST('/build/documents/{kind}/{key}/restore', { params: { path: { kind: d.kind, key: d.key } } }),
    )
    await build.load()
    await router.push(`/build/${d.kind}/${d.key}`)
  } catch (error) {
    toast.add({ severity: 'error', summary: 'Not brought back', detail: titleOf(error), life: 10000 })
  }
}
</script>

<template>
  <main v-if="build.contents" class="start">
    <h1>{{ build.contents.app }}</h1>
    <p>
      Choose a document from the contents. A walkthrough opens as a sheet: rows are time, lanes are who. What
      you change saves itself; people get it with the next release.
    </p>
    <p v-if="!build.contents.documents.some((d) => ['walkthrough', 'page'].includes(d.kind))">
      There is nothing for people to do in it yet. Make objects in the contents, or
      <RouterLink to="/build/intake">bring in a spreadsheet</RouterLink>: its columns become fields. Then make
      a walkthrough or a page of them.
    </p>
    <template v-if="found.length">
      <h2>To be looked at</h2>
      <ul>
        <li v-for="d in found" :key="d.kind + d.key">
          <RouterLink :to="`/build/${d.kind}/${d.key}`">{{ d.label }}</RouterLink>
          <span class="care"> {{ d.findings }} {{ d.findings === 1 ? 'finding' : 'findings' }}</span>
        </li>
      </ul>
    </template>
    <StartFigures v-if="build.contents.releases.length" />
    <template v-if="build.contents.removed.length">
      <h2>Removed</h2>
      <ul>
        <li v-for="d in build.contents.removed" :key="d.kind + d.key">
          {{ d.label }} <span class="muted">({{ d.kind }})</span>{{ ' ' }}
          <button type="button" class="plain link" @click="bringBack(d)">bring back</button>
        </li>
      </ul>
    </template>
    <template v-if="hidden.length">
      <h2>Hidden</h2>
      <p class="muted">
        Fields and objects that were removed keep what they hold. It comes back with them, or is dropped for
        good by a release in which that is ticked.
      </p>
      <ul>
        <li v-for="h in hidden" :key="h.object + '.' + (h.field ?? '')">{{ hiddenWords(h) }}</li>
      </ul>
    </template>
    <h2>Releases</h2>
    <ol class="plain-list">
      <li v-for="r in build.contents.releases" :key="r.number">
        <strong>{{ r.number }}</strong> {{ r.note || 'no note' }}
        <span class="muted">{{ moment(r.at) }}, {{ r.person }}</span>
        <span v-if="r.despite" class="care"> released despite kept rehearsals: {{ r.despite }}</span>
        <span v-if="r.in_force" class="good"> in force</span>
        <button v-else type="button" class="plain link" @click="goBack(r.number)">go back to it …</button>
      </li>
    </ol>
    <p v-if="build.contents.releases.length > 1" class="muted">
      Going back is a release like any other: the draft stays as it is.
    </p>
    <AppFiles />
    <ReleaseDialog v-model:open="releasing" :again="again" />
  </main>
</template>

<style scoped>
.start {
  max-width: 72rem;
  padding: 1.6rem 2rem;
}
h2 {
  margin: 1.4rem 0 0.4rem;
}
ul,
.plain-list {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  padding: 0.2rem 0;
}
</style>
