<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed, ref, watch } from 'vue'

/** The link with which somebody chooses a password: shown this once, and kept nowhere. */
const props = defineProps<{ name: string }>()
const link = defineModel<string>({ required: true })
const address = computed(() => location.origin + link.value)
const copied = ref(false)
watch(link, () => (copied.value = false))

async function copy(): Promise<void> {
  await navigator.clipboard.writeText(address.value)
  copied.value = true
}
</script>

<template>
  <Dialog
    :visible="!!link"
    modal
    :header="`A link for ${props.name}`"
    :style="{ width: '34rem' }"
    @update:visible="link = ''"
  >
    <p>
      Give it to them yourself. Whoever opens it within three days chooses their password; it holds once, and
      is not shown again.
    </p>
    <p>
      <code class="address">{{ address }}</code>
    </p>
    <div class="row">
      <Button label="Copy it" size="small" autofocus @click="copy" />
      <span v-if="copied" class="good" role="status">copied</span>
    </div>
  </Dialog>
</template>

<style scoped>
.address {
  overflow-wrap: anywhere;
  user-select: all;
}
</style>
