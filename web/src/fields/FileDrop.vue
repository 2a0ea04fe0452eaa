<script setup lang="ts">
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { ref } from 'vue'
import { titleOf } from '@/api/client'
import { latest } from '@/api/latest'
import type { Ref } from '@/api/types'
import { useFiles } from './files'

/** Where a file is chosen or dropped, or several one after the other. Each is sent at once. */
const props = defineProps<{
  id: string
  picture?: boolean
  several?: boolean
  /** What the button says. */
  words: string
  label?: string
  describedBy?: string
}>()
const emit = defineEmits<{ given: [file: Ref]; stopped: [] }>()
const files = useFiles()
const input = ref<HTMLInputElement | null>(null)
const sent = ref<number | null>(null)
const name = ref('')
const over = ref(false)
const failed = ref('')
const question = latest()

/** Those that are still to be sent, and how many came together. */
let waiting: File[] = []
let together = 0

/** What is given while others are being sent is sent after them; where one is wanted, in its place. */
async function take(list: FileList | null | undefined): Promise<void> {
  over.value = false
  const chosen = [...(list ?? [])].slice(0, props.several ? undefined : 1)
  if (input.value) input.value.value = ''
  if (!chosen.length) return
  waiting.push(...chosen)
  together += chosen.length
  if (props.several && sent.value !== null) return
  const isLatest = question.ask()
  failed.value = ''
  try {
    for (let file = waiting.shift(); file; file = waiting.shift()) {
      const which = ` (${together - waiting.length} of ${together})`
      name.value = file.name + (together > 1 ? which : '')
      const given = await sendOne(file, isLatest)
      if (!isLatest()) return
      emit('given', given)
    }
  } catch (error) {
    if (isLatest()) failed.value = (props.several ? `${name.value}: ` : '') + titleOf(error)
  } finally {
    if (isLatest()) done()
  }
}

function done(): void {
  sent.value = null
  waiting = []
  together = 0
}

async function sendOne(file: File, isLatest: () => boolean): Promise<Ref> {
  let done = 0
  sent.value = 0
  const kept = await files.send(file, (n) => {
    done += n
    if (!isLatest()) throw new Error('stopped')
    sent.value = Math.round((done / file.size) * 100)
  })
  if (props.picture && !kept.media_type?.startsWith('image/'))
    throw new Error(`${kept.name} is no picture. Choose a PNG, JPEG, GIF or WebP file.`)
  return { id: kept.id, label: kept.name }
}

function stop(): void {
  question.ask()
  done()
  emit('stopped')
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
    <slot name="held" />
    <template v-if="sent !== null">
      <ProgressBar :value="sent" :aria-label="'Sent of ' + name" class="bar" />
      <span v-if="several" class="muted">{{ name }}</span>
      <Button text size="small" label="Stop" @click="stop" />
    </template>
    <template v-else>
      <Button outlined size="small" :label="words" @click="input?.click()" />
      <slot />
    </template>
    <input
      :id="id"
      ref="input"
      type="file"
      :multiple="several"
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
