<script setup lang="ts">
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { computed, ref } from 'vue'
import { titleOf } from '@/api/client'
import { latest } from '@/api/latest'
import type { Ref } from '@/api/types'
import { useFiles } from './files'
import FileValue from './FileValue.vue'

/** Gives a picture or a file: chosen, or dropped here. It is sent at once. */
const props = defineProps<{ id: string; picture?: boolean; label?: string; describedBy?: string }>()
const value = defineModel<unknown>({ required: true })
const file = computed(() => (value.value as Ref | null) ?? null)
const files = useFiles()
const input = ref<HTMLInputElement | null>(null)
const sent = ref<number | null>(null)
const over = ref(false)
const failed = ref('')
const question = latest()

async function take(list: FileList | null | undefined): Promise<void> {
  over.value = false
  const chosen = list?.[0]
  if (!chosen) return
  const isLatest = question.ask()
  failed.value = ''
  sent.value = 0
  let done = 0
  try {
    const kept = await files.send(chosen, (n) => {
      done += n
      if (!isLatest()) throw new Error('stopped')
      sent.value = Math.round((done / chosen.size) * 100)
    })
    if (!isLatest()) return
    if (props.picture && !kept.media_type?.startsWith('image/'))
      failed.value = `${kept.name} is no picture. Choose a PNG, JPEG, GIF or WebP file.`
    else value.value = { id: kept.id, label: kept.name }
  } catch (error) {
    if (isLatest()) failed.value = titleOf(error)
  } finally {
    if (isLatest()) sent.value = null
    if (input.value) input.value.value = ''
  }
}

function clear(): void {
  question.ask()
  sent.value = null
  value.value = null
}
</script>

<template>
  <span
    class="give"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="take($event.dataTransfer?.files)"
  >
    <FileValue v-if="file" :file="file" :picture="picture" class="held" />
    <template v-if="sent !== null">
      <ProgressBar :value="sent" aria-label="Sent" class="bar" />
      <Button text size="small" label="Stop" @click="clear" />
    </template>
    <template v-else>
      <Button
        outlined
        size="small"
        :label="file ? 'Replace…' : picture ? 'Choose a picture…' : 'Choose a file…'"
        @click="input?.click()"
      />
      <Button v-if="file" text size="small" label="Remove" @click="clear" />
      <span v-else class="muted">or drop one here</span>
    </template>
    <input
      :id="id"
      ref="input"
      type="file"
      :accept="picture ? 'image/png,image/jpeg,image/gif,image/webp' : undefined"
      class="visually-hidden"
      :aria-label="label ?? (picture ? 'Picture' : 'File')"
      :aria-describedby="describedBy"
      tabindex="-1"
      @change="take(($event.target as HTMLInputElement).files)"
    />
    <small v-if="failed" class="bad" role="alert">{{ failed }}</small>
  </span>
</template>

<style scoped>
.give {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.4rem;
  border-radius: 4px;
  --picture: 72px;
}
.over {
  background: var(--tint);
}
.bar {
  flex: 1;
  min-width: 8rem;
}
small {
  flex-basis: 100%;
}
</style>
