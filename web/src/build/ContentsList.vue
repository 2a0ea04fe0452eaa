<script setup lang="ts">
import { computed, ref } from 'vue'
import { useBuild } from './build'
import { documentKinds, documents, type DocumentKind } from './documents'
import NewObject from './NewObject.vue'
import NewSurface from './NewSurface.vue'

const build = useBuild()
const adding = ref<DocumentKind | null>(null)
const addingObject = ref(false)
const apps = computed(() => (build.contents?.documents ?? []).filter((d) => d.kind === 'app'))
const chapters = computed(() =>
  documentKinds
    .filter((kind) => kind !== 'app')
    .map((kind) => ({
      kind,
      ...documents[kind],
      items: (build.contents?.documents ?? [])
        .filter((d) => d.kind === kind)
        .sort((a, b) => a.label.localeCompare(b.label)),
    })),
)
</script>

<template>
  <nav class="contents" aria-label="Contents">
    <section v-for="c in chapters" :key="c.kind">
      <h2>
        {{ c.chapter }}
        <button v-if="c.fresh" type="button" class="plain link" @click="adding = c.kind">New…</button>
        <span v-if="c.brought" class="tools">
          <RouterLink to="/build/intake">Bring in…</RouterLink>
          <button type="button" class="plain link" @click="addingObject = true">New…</button>
        </span>
        <RouterLink v-if="c.rights" :to="c.rights.to">{{ c.rights.label }}</RouterLink>
      </h2>
      <ul>
        <li v-for="d in c.items" :key="d.key">
          <RouterLink :to="`/build/${d.kind}/${d.key}`" active-class="here">
            {{ d.label }}
            <span v-if="d.findings" class="count" :title="d.findings + ' findings'">{{ d.findings }}</span>
          </RouterLink>
        </li>
      </ul>
    </section>
    <ul>
      <li v-for="d in apps" :key="d.key">
        <RouterLink :to="`/build/app/${d.key}`" active-class="here">
          {{ documents.app.chapter }}
          <span v-if="d.findings" class="count" :title="d.findings + ' findings'">{{ d.findings }}</span>
        </RouterLink>
      </li>
    </ul>
    <NewSurface v-if="adding" :key="adding" open :kind="adding" @update:open="adding = null" />
    <NewObject v-model:open="addingObject" />
  </nav>
</template>

<style scoped>
.contents {
  border-right: 1px solid var(--line);
  padding: 1rem 0.4rem 1rem 1rem;
  overflow: auto;
}
h2 {
  font-size: 0.85rem;
  color: var(--muted);
  font-weight: 600;
  display: flex;
  justify-content: space-between;
  padding-right: 0.6rem;
}
h2 button,
h2 a {
  font-weight: 400;
}
.tools {
  display: flex;
  gap: 0.5rem;
}
ul {
  list-style: none;
  margin: 0.2rem 0 1.2rem;
  padding: 0;
}
li a {
  display: flex;
  justify-content: space-between;
  gap: 0.4rem;
  padding: 0.12rem 0.6rem;
  color: var(--ink);
  text-decoration: none;
  border-left: 2px solid transparent;
}
li a:hover {
  text-decoration: underline;
}
.here {
  border-left-color: var(--accent);
  font-weight: 650;
}
.count {
  white-space: nowrap;
  color: var(--care);
  font-weight: 650;
}
.count::before {
  content: '! ';
}
</style>
