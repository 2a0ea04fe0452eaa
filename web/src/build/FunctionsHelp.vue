<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import FloatPanel from '@/frame/FloatPanel.vue'
import { matching, useBuild } from './build'

/** What expressions can call; one that is pressed is taken. */
const emit = defineEmits<{ take: [form: string] }>()
const build = useBuild()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const words = ref('')

const all = computed(() =>
  (build.contents?.functions ?? []).map((f) => ({ ...f, label: f.form + ' ' + f.about })),
)
const found = computed(() => matching(all.value, words.value))

function take(form: string): void {
  panel.value?.hide()
  emit('take', form)
}
</script>

<template>
  <button type="button" class="plain link" aria-haspopup="dialog" @click="panel?.show($event)">
    Functions
  </button>
  <FloatPanel ref="panel" aria-label="Functions">
    <div class="help">
      <InputText
        v-model="words"
        size="small"
        placeholder="Find a function"
        aria-label="Find a function"
        fluid
      />
      <ul>
        <li v-for="f in found" :key="f.name">
          <button type="button" class="plain" @click="take(f.form)">
            <code>{{ f.form }}</code>
            <span>{{ f.about }}</span>
            <span v-if="f.only" class="only">{{ f.only }}</span>
          </button>
        </li>
      </ul>
      <p v-if="!found.length" class="muted">No function is called or does this.</p>
    </div>
  </FloatPanel>
</template>

<style scoped>
.help {
  width: 27rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0.5rem 0 0;
  max-height: 20rem;
  overflow-y: auto;
  scrollbar-gutter: stable;
}
li button {
  display: grid;
  width: 100%;
  padding: 0.35rem 0.25rem;
  text-align: left;
  font-size: 0.9rem;
  border-top: 1px solid var(--line);
}
li button:hover {
  background: var(--tint);
}
.only {
  color: var(--care);
}
</style>
