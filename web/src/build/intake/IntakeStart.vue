<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import ProgressBar from 'primevue/progressbar'
import SelectButton from 'primevue/selectbutton'
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import { upload } from './intake'
import { moment } from '@/fields/zone'

const router = useRouter()
const input = ref<HTMLInputElement | null>(null)
const { found: earlier, failed: notListed } = useAsked(
  () => ['intakes'],
  (signal) => given(api.GET('/build/intakes', { signal })),
)
const sending = useDoing()
const failed = computed(() => sending.failed.value || notListed.value)
const sent = ref<{ done: number; all: number } | null>(null)
const over = ref(false)
const space = useStorage('plainpath.intake.space', 'trial')
const spaces = [
  { key: 'trial', label: 'into trial' },
  { key: 'production', label: 'into production' },
]
const states: Record<string, string> = {
  uploading: 'not all of it arrived',
  analysing: 'being looked at',
  ready: 'waiting for you',
  checking: 'being tried',
  checked: 'tried, not brought in yet',
  importing: 'being brought in',
  imported: 'brought in',
  failed: 'could not be read',
}

async function take(files: FileList | null): Promise<void> {
  over.value = false
  if (!files?.length) return
  sent.value = { done: 0, all: 1 }
  await sending.attempt(async () => {
    const intake = await upload(space.value, [...files], (done, all) => (sent.value = { done, all }))
    await router.push('/build/intake/' + intake.id)
  })
  sent.value = null
}
</script>

<template>
  <main class="start">
    <h1>Bring records in</h1>
    <p>
      From spreadsheets (XLSX, every sheet) and CSV files. Every cell is looked at; you see what type each
      column has and why, and nothing is stored before you have tried it.
    </p>
    <Message v-if="failed" severity="error" :closable="false" role="alert">{{ failed }}</Message>
    <div class="row">
      <SelectButton
        v-model="space"
        :options="spaces"
        option-label="label"
        option-value="key"
        :allow-empty="false"
        size="small"
        aria-label="Where the records come in"
      />
      <span class="muted">{{
        space === 'trial'
          ? 'New objects can be made on the way.'
          : 'Only into objects that were released; people see the records at once.'
      }}</span>
    </div>
    <div
      class="drop"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="take($event.dataTransfer?.files ?? null)"
    >
      <template v-if="sent">
        <p aria-live="polite">Sending …</p>
        <ProgressBar :value="Math.round((sent.done / sent.all) * 100)" aria-label="Sent" />
      </template>
      <template v-else>
        <p>Drop files here, several at once if they belong together, or</p>
        <Button label="Choose files…" @click="input?.click()" />
        <input
          ref="input"
          type="file"
          multiple
          accept=".csv,.tsv,.txt,.xlsx"
          class="visually-hidden"
          aria-label="Files to bring in"
          tabindex="-1"
          @change="take(($event.target as HTMLInputElement).files)"
        />
      </template>
    </div>
    <template v-if="earlier?.length">
      <h2>Earlier</h2>
      <ul>
        <li v-for="i in earlier" :key="i.id">
          <RouterLink :to="'/build/intake/' + i.id">{{ i.files.map((f) => f.name).join(', ') }}</RouterLink>
          <span class="muted">
            {{ i.space === 'production' ? 'for production, ' : '' }}{{ states[i.state] ?? i.state }},
            {{ moment(i.changed_at) }}</span
          >
        </li>
      </ul>
    </template>
  </main>
</template>

<style scoped>
.start {
  max-width: 44rem;
  padding: 1.6rem 2rem;
}
.drop {
  border: 1px dashed var(--muted);
  border-radius: 4px;
  background: var(--panel);
  padding: 2rem;
  text-align: center;
  margin: 1rem 0 1.6rem;
}
.over {
  border-color: var(--accent);
  background: var(--tint);
}
ul {
  list-style: none;
  padding: 0;
}
li {
  padding: 0.25rem 0;
}
</style>
