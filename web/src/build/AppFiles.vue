<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed, ref } from 'vue'
import { api, bytes, given, ProblemError } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { Brought } from '@/api/types'
import { useBuild } from './build'

/** The draft as files: taken out, and brought in after a look at what that changes. */
const build = useBuild()
const chosen = ref<File | null>(null)
const brought = ref<Brought | null>(null)
const { busy, failed, error, attempt } = useDoing()
const problems = computed(() =>
  error.value instanceof ProblemError ? (error.value.problem.problems ?? []).map((p) => p.text) : [],
)
const input = ref<HTMLInputElement | null>(null)

async function look(e: Event): Promise<void> {
  const file = (e.target as HTMLInputElement).files?.[0] ?? null
  if (input.value) input.value.value = ''
  if (!file) return
  chosen.value = file
  brought.value = null
  await attempt(async () => {
    brought.value = await given(api.POST('/build/package/try', bytes(file)))
  })
}

const take = () =>
  attempt(async () => {
    await given(api.POST('/build/package', bytes(chosen.value!)))
    chosen.value = null
    await build.load()
  })
</script>

<template>
  <h2>As files</h2>
  <p class="muted">
    The draft as one file for each document, to keep beside other work or to carry to another installation.
  </p>
  <p class="row">
    <a href="/api/build/package" download>Take the app out</a>
    <button type="button" class="plain link" @click="input?.click()">Bring an app in …</button>
    <input
      ref="input"
      type="file"
      accept=".zip"
      class="visually-hidden"
      tabindex="-1"
      aria-label="An app as files"
      @change="look"
    />
  </p>
  <Dialog
    :visible="!!chosen"
    modal
    :header="`What ${chosen?.name ?? ''} changes`"
    :style="{ width: '40rem' }"
    @update:visible="chosen = null"
  >
    <p v-if="busy">Looking …</p>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <ul v-if="problems.length">
      <li v-for="p in problems" :key="p">{{ p }}</li>
    </ul>
    <template v-if="brought">
      <p v-if="!brought.changes.length">Nothing: the draft says the same already.</p>
      <ul>
        <li v-for="c in brought.changes" :key="c.document">
          <strong>{{ c.label }}</strong> {{ c.what }}
          <div v-for="d in c.details" :key="d" class="muted">{{ d }}</div>
        </li>
      </ul>
      <p v-if="brought.findings.length" class="care">
        The draft would have {{ brought.findings.length }} findings, the first: {{ brought.findings[0].text }}
      </p>
      <p class="muted">It changes the draft alone. What is removed can be brought back below “Removed”.</p>
      <div class="row">
        <Button label="Leave it" outlined autofocus @click="chosen = null" />
        <Button v-if="brought.changes.length" label="Bring it in" :loading="busy" @click="take" />
      </div>
    </template>
  </Dialog>
</template>

<style scoped>
h2 {
  margin: 1.4rem 0 0.4rem;
}
ul {
  padding-left: 1.1rem;
  max-height: 24rem;
  overflow: auto;
}
</style>
